import { lazy, Suspense, useEffect, useState } from 'react';
import { useFocus } from '../lib/address';
import { conditionOf, type Subject, subjectOf } from './subject';

const ways = {
  context: ['in context', lazy(() => import('./Context'))],
  branches: ['branches', lazy(() => import('./Branches'))],
  company: ['said with', lazy(() => import('./Company'))],
  time: ['over time', lazy(() => import('./Timeline'))],
} as const;
type Way = keyof typeof ways;

/** What stands around the term (or the rule) that the answers pane shows. */
export function Beneath() {
  const { pick, setPick, params, set } = useFocus();
  const way: Way = (params.get('way') as Way) in ways ? (params.get('way') as Way) : 'context';
  const shut = params.get('way') === 'shut';
  const subject = subjectOf(pick);
  if (!subject) return null;
  const Shown = ways[way][1];
  return (
    <section
      className={`beneath ${shut ? 'shut' : way === 'branches' ? 'tall' : ''}`}
      aria-label="What stands around it"
    >
      <div className="row between">
        <span className="row">
          <SubjectField subject={subject} look={(s) => setPick([conditionOf(s)])} />
          {(Object.keys(ways) as Way[]).map((w) => (
            <button
              key={w}
              type="button"
              className="plain"
              aria-pressed={!shut && w === way}
              onClick={() => set({ way: w === 'context' ? '' : w }, true)}
            >
              {ways[w][0]}
            </button>
          ))}
        </span>
        <button type="button" className="plain soft" onClick={() => set({ way: shut ? '' : 'shut' }, true)}>
          {shut ? 'show' : 'fold away'}
        </button>
      </div>
      {!shut && (
        <Suspense fallback={<p className="ghost">&nbsp;</p>}>
          <Shown subject={subject} key={`${subject.of} ${subject.text}`} />
        </Suspense>
      )}
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
      <input
        className="subject"
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
