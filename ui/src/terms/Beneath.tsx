import { lazy, Suspense, useEffect, useState } from 'react';
import { useAddress } from '../lib/address';
import { Boundary } from '../parts/Boundary';
import { Tabs } from '../parts/Tabs';
import { Skeleton, TextField } from '../parts/Text';
import { conditionOf, type Subject, subjectOf } from './subject';

const ways = {
  context: ['In context', lazy(() => import('./Context'))],
  branches: ['Branches', lazy(() => import('./Branches'))],
  company: ['Said with', lazy(() => import('./Company'))],
  time: ['Over time', lazy(() => import('./Timeline'))],
} as const;
type Way = keyof typeof ways;

/** What stands around the term (or the rule) that the answers pane shows. */
export function Beneath() {
  const { pick, setPick, one, set } = useAddress();
  const way = one('way', Object.keys(ways) as Way[]);
  const subject = subjectOf(pick);
  if (!subject) return null;
  const Shown = ways[way][1];
  return (
    <section id="beneath" aria-label="What stands around it" className="flex size-full min-h-0 flex-col pt-2">
      <Tabs
        label="What stands around it"
        value={way}
        change={(w) => set({ way: w === 'context' ? '' : w }, true)}
        tabs={(Object.keys(ways) as Way[]).map((w) => ({ value: w, words: ways[w][0] }))}
        beside={<SubjectField subject={subject} look={(s) => setPick([conditionOf(s)])} />}
        className="flex min-h-0 flex-1 flex-col"
        panel="flex min-h-0 flex-1 flex-col gap-1"
      >
        <Boundary what="What stands around it" key={way}>
          <Suspense fallback={<Skeleton lines={4} />}>
            <Shown subject={subject} key={`${subject.of} ${subject.text}`} />
          </Suspense>
        </Boundary>
      </Tabs>
    </section>
  );
}

/** What is looked at; any rule may be written in its place. */
function SubjectField({ subject, look }: { subject: Subject; look: (s: Subject) => void }) {
  const [typed, setTyped] = useState(subject.text);
  useEffect(() => setTyped(subject.text), [subject.text]);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (typed.trim() && typed !== subject.text) look({ of: 'rule', text: typed.trim() });
      }}
    >
      <TextField
        className="w-40 font-semibold"
        aria-label="What is looked at: a term or a rule"
        title="write a word or a rule here to look at it in context"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Escape') {
            setTyped(subject.text);
            e.currentTarget.blur();
          }
        }}
      />
    </form>
  );
}
