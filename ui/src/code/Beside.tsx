import { useState } from 'react';
import { Example } from '../answers/Words';
import { useAddress } from '../lib/address';
import type { Condition, FrameLine } from '../lib/api';
import { count, percent } from '../lib/format';
import { useTry } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Dialog } from '../parts/Dialog';
import { Empty, Labelled, Skeleton, TextField } from '../parts/Text';
import { RuleText } from '../rule/Rule';

type BesideProps = { line: FrameLine; lines: FrameLine[]; rule: string; close: () => void };
type Show = 'a' | 'both' | 'b';

/** Two rules side by side: what the one finds, what the other, and what both. */
export function Beside({ line, lines, rule, close }: BesideProps) {
  const { focusText, setPick } = useAddress();
  const all = lines.flatMap((l) => l.hits.map((h) => ({ category: l.path.join(' / '), source: h.source })));
  const first =
    all.find((r) => r.source !== rule && r.category === line.path.join(' / ')) ?? all.find((r) => r.source !== rule);
  const [other, setOther] = useState(first?.source ?? '');
  const [show, setShow] = useState<Show>('both');
  const found = useTry(
    'rule/beside',
    { a: rule, b: other, show },
    { query: { focus: focusText }, enabled: !!other.trim() },
  );
  const f = other.trim() ? found.now : undefined;
  const picks: Record<Show, Condition[]> = {
    a: [
      { kind: 'words', text: rule },
      { kind: 'words', text: other, not: true },
    ],
    both: [
      { kind: 'words', text: rule },
      { kind: 'words', text: other },
    ],
    b: [
      { kind: 'words', text: other },
      { kind: 'words', text: rule, not: true },
    ],
  };
  const columns: [Show, string, number | undefined, string][] = [
    ['a', 'only this rule', f?.onlyA, f ? `${count(f.uncodedA)} uncoded` : ''],
    ['both', 'both', f?.both, f ? `${percent(f.jaccard)} of what either finds` : ''],
    ['b', 'only the other', f?.onlyB, f ? `${count(f.uncodedB)} uncoded` : ''],
  ];
  return (
    <Dialog title="Two rules side by side" wide close={close}>
      <div className="grid grid-cols-2 gap-x-5 pb-2.5">
        <p className="self-end pb-2 font-mono text-lg break-words">
          <RuleText source={rule} />
        </p>
        <div>
          <Labelled name="beside the rule">
            <Combobox
              label="beside the rule"
              value={all.some((r) => r.source === other) ? other : ''}
              change={(v) => v && setOther(v)}
              options={[
                { value: '', words: 'one that is written below' },
                ...all
                  .filter((r) => r.source !== rule)
                  .map((r) => ({ value: r.source, words: `${r.source} · ${r.category}` })),
              ]}
            />
          </Labelled>
          <TextField
            wide
            className="mt-2 font-mono"
            spellCheck={false}
            aria-label="The other rule"
            value={other}
            onChange={(e) => setOther(e.target.value)}
          />
        </div>
      </div>
      {found.error && !found.now && <Failed error={found.error} again={() => found.refetch()} />}
      <div className="grid grid-cols-3 border-y py-2" role="group" aria-label="What they find">
        {columns.map(([which, words, n, more]) => (
          <Button
            key={which}
            look="bare"
            className="px-2 py-1 aria-pressed:bg-mosspale"
            aria-pressed={show === which}
            onClick={() => setShow(which)}
          >
            <span className="block text-sm text-soft">{words}</span>
            <b className="block font-serif text-xl">{n === undefined ? '…' : count(n)}</b>
            <span className="block text-sm text-soft">{more}</span>
          </Button>
        ))}
      </div>
      {!f && !found.error && <Skeleton lines={3} />}
      {f && (
        <ul className="max-h-[38vh] min-h-24 overflow-y-auto">
          {f.examples.answers.map((x) => (
            <Example key={x.number} answer={x} />
          ))}
          {f.examples.total === 0 && <Empty>None.</Empty>}
        </ul>
      )}
      <p className="flex items-baseline gap-2.5 pt-2">
        <Button
          disabled={!f?.examples.total}
          onClick={() => {
            setPick(picks[show]);
            close();
          }}
        >
          Read them all
        </Button>
        <Button onClick={close}>Close</Button>
      </p>
    </Dialog>
  );
}
