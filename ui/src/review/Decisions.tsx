import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Edit, HandDecisions } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { Table } from '../parts/Table';
import { Empty, Sentence, Skeleton } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';

type Line = HandDecisions['categories'][number];

/** So many answers are picked out at once: an address line holds no more. */
const mostPicked = 300;

/** What was decided by hand, against what the rules say by now. */
export default function Decisions() {
  const { focusText } = useAddress();
  const found = useAsk('decisions', { focus: focusText });
  const [taking, setTaking] = useState(false);
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  const d = found.data;
  if (!d) return <Skeleton lines={6} />;
  if (!d.categories.length)
    return (
      <Empty>Nothing was decided by hand here. Put categories on answers in What is left, and they stand here.</Empty>
    );
  const needless = d.categories.reduce((n, c) => n + c.needless.length, 0);
  return (
    <div className="max-w-300 pr-2" aria-busy={found.isPlaceholderData}>
      <Sentence>
        {many(d.answers, 'answer')} of the focus {d.answers === 1 ? 'has' : 'have'} decisions by hand.{' '}
        {needless
          ? `On ${count(needless)} the rules say the same by now.`
          : 'None of them is needless: the rules say otherwise on each.'}
      </Sentence>
      <Table
        label="Decisions by category"
        rows={d.categories}
        id={(c) => c.id}
        columns={[
          { key: 'category', name: 'category', head: true, grow: true, cell: (c) => c.name },
          {
            key: 'added',
            name: 'put on, rules don’t',
            told: 'Answers that have it by hand and not by its rules',
            figure: true,
            cell: (c) => <Pick of={c.added} label={`answers with ${c.name} by hand only`} />,
          },
          {
            key: 'taken',
            name: 'taken off, rules would',
            told: 'Answers that its rules give it to, and that it was taken off',
            figure: true,
            cell: (c) => <Pick of={c.taken} label={`answers that ${c.name} was taken off`} />,
          },
          {
            key: 'needless',
            name: 'needless',
            told: 'Decisions that say what the rules say too; taking them back changes nothing now',
            figure: true,
            cell: (c) => <Pick of={c.needless} label={`answers with a needless decision on ${c.name}`} />,
          },
        ]}
      />
      {needless > 0 && (
        <p className="pt-2">
          <Button onClick={() => setTaking(true)}>Take the needless ones back…</Button>
        </p>
      )}
      {taking && <TakeBack of={d.categories} needless={needless} close={() => setTaking(false)} />}
    </div>
  );
}

function Pick({ of, label }: { of: number[]; label: string }) {
  const { setPick, pickText } = useAddress();
  if (!of.length) return <>0</>;
  const pick = [{ kind: 'answers', answers: of.slice(0, mostPicked) } as const];
  const more = of.length > mostPicked ? `; the first ${mostPicked}` : '';
  return (
    <Button
      data-stop=""
      look="plain"
      aria-label={`${count(of.length)} ${label}: show them${more}`}
      aria-pressed={pickText === JSON.stringify(pick)}
      onClick={() => setPick(pick)}
    >
      {count(of.length)}
    </Button>
  );
}

/** Leaves to the rules what they say anyway, in one edit. */
function TakeBack({ of, needless, close }: { of: Line[]; needless: number; close: () => void }) {
  const { edit } = useDesk();
  const change: Edit = {
    kind: 'several',
    summary: `Took back ${many(needless, 'needless decision')}`,
    decide: of
      .filter((c) => c.needless.length)
      .map((c) => ({ category: c.id, answers: c.needless, to: 'rules' as const })),
  };
  return (
    <Dialog title="Take needless decisions back" close={close}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          close();
          await edit(change);
        }}
      >
        <p>
          {many(needless, 'decision')} would be left to the rules, which say the same now. If the rules change later,
          these answers follow them.
        </p>
        <EffectOf change={change} />
        <Ends go="Take them back" ready close={close} />
      </form>
    </Dialog>
  );
}
