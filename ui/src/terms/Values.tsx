import { useAddress } from '../lib/address';
import type { Condition, ValueTable } from '../lib/api';
import { count, many, percent } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Stops } from '../parts/Stops';
import { Empty, Skeleton } from '../parts/Text';

const told: Record<string, string> = {
  money: 'amounts of money',
  percent: 'percentages',
  duration: 'how long something takes',
  time: 'times of day',
  date: 'dates',
  measure: 'numbers with a unit',
  number: 'numbers, those of the others too',
};

/** Amounts, times and the like in the answers: each list counts as one, and its values are listed with their counts. */
export default function Values() {
  const { focusText, get, set } = useAddress();
  const found = useAsk('values', { focus: focusText });
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  const v = found.data;
  if (!v) return <Skeleton lines={6} />;
  const lists = v.lists.filter((l) => l.times > 0);
  const open = lists.find((l) => l.name === get('list')) ?? lists[0];
  if (!open) return <Empty>No answer of the focus holds an amount, a time, a date or any other number.</Empty>;
  return (
    <div className="min-h-0 max-w-280 flex-1 overflow-auto pr-2" aria-busy={found.isPlaceholderData}>
      <table
        data-part="valuelists"
        className="w-full [&_td]:py-1 [&_th]:pb-1 [&_th]:text-sm [&_th]:font-normal [&_th]:text-soft"
      >
        <thead>
          <tr>
            <th className="text-left">in rules</th>
            <th className="text-left">finds</th>
            <th className="text-right">answers</th>
            <th className="text-right">share</th>
            <th className="text-right">times</th>
            <th className="text-right">uncoded</th>
          </tr>
        </thead>
        <tbody>
          {lists.map((l) => (
            <Line key={l.name} list={l} on={l === open} choose={() => set({ list: l.name }, true)} />
          ))}
        </tbody>
      </table>
      <h2 className="pt-4">@{open.name}</h2>
      <p className="text-sm text-soft">
        {count(open.times)} places in {many(open.answers, 'answer')}, as they are read; press one for its answers.
        {!v.words && ' In this language numbers and signs are known, words are not.'}
      </p>
      <Stops className="columns-3 gap-6 max-sm:columns-1" as="ul">
        {open.values.map((m) => (
          <li key={m.word} className="flex items-baseline justify-between gap-2 border-t border-hair py-0.5">
            <Pick words={m.word} of={[{ kind: 'words', text: `"${m.word}"` }]} />
            <span className="text-soft">{count(m.times)}</span>
          </li>
        ))}
      </Stops>
      {open.more > 0 && <p className="text-sm text-soft">and {count(open.more)} more values</p>}
    </div>
  );
}

function Line({ list: l, on, choose }: { list: ValueTable['lists'][number]; on: boolean; choose: () => void }) {
  const all: Condition[] = [{ kind: 'words', text: `@${l.name}` }];
  return (
    <tr className={`border-t ${on ? 'bg-mosspale' : ''}`}>
      <th scope="row" className="text-left!">
        <Button look="plain" className="font-mono text-lg" aria-pressed={on} onClick={choose}>
          @{l.name}
        </Button>
      </th>
      <td className="text-soft">{told[l.name]}</td>
      <td className="text-right">
        <Pick words={count(l.answers)} of={all} label={`${count(l.answers)} answers with @${l.name}: show them`} />
      </td>
      <td className="text-right text-soft">{percent(l.share)}</td>
      <td className="text-right text-soft">{count(l.times)}</td>
      <td className="text-right text-soft">
        <Pick
          words={count(l.uncoded)}
          of={[...all, { kind: 'coded', not: true }]}
          label={`${count(l.uncoded)} of them uncoded: show them`}
        />
      </td>
    </tr>
  );
}

function Pick({ words, of, label }: { words: string; of: Condition[]; label?: string }) {
  const { setPick, pickText } = useAddress();
  return (
    <Button
      look="plain"
      data-stop=""
      aria-label={label}
      aria-pressed={pickText === JSON.stringify(of)}
      onClick={() => setPick(of)}
    >
      {words}
    </Button>
  );
}
