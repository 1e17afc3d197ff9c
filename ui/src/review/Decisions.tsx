import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Edit, HandDecisions } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, dated, many } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { Table } from '../parts/Table';
import { Caption, Empty, Sentence, Skeleton } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';

type Line = HandDecisions['categories'][number];

/** So many answers are picked out at once: an address line holds no more. */
const mostPicked = 300;

/** What was decided by hand, against what the rules say by now. */
export default function Decisions() {
  const { focusText } = useAddress();
  const found = useAsk('decisions', { focus: focusText });
  const [taking, setTaking] = useState<What>();
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  const d = found.data;
  if (!d) return <Skeleton lines={6} />;
  if (!d.categories.length)
    return (
      <Empty>Nothing was decided by hand here. Put categories on answers in What is left, and they stand here.</Empty>
    );
  const needless = d.categories.reduce((n, c) => n + c.needless.length, 0);
  const suggested = d.categories.reduce((n, c) => n + c.suggested.length, 0);
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
            key: 'suggested',
            name: 'suggested, unread',
            told: 'Answers that it was put on since it is likely, and that nobody has looked at since',
            figure: true,
            cell: (c) => <Pick of={c.suggested} label={`answers with ${c.name} suggested`} />,
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
      <p className="flex flex-wrap gap-2.5 pt-2">
        {needless > 0 && (
          <Button disabled={found.isPlaceholderData} onClick={() => setTaking('needless')}>
            Take the needless ones back…
          </Button>
        )}
        {suggested > 0 && (
          <Button disabled={found.isPlaceholderData} onClick={() => setTaking('suggested')}>
            Take all that is suggested back…
          </Button>
        )}
      </p>
      <ByWhom of={d} />
      {taking && <TakeBack of={d.categories} what={taking} close={() => setTaking(undefined)} />}
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

/** By whom and when decisions were made, and those with a note. */
function ByWhom({ of: d }: { of: HandDecisions }) {
  const { setPick } = useAddress();
  return (
    <div className="flex flex-wrap items-start gap-x-10 gap-y-4 pt-5">
      <section aria-label="By whom and when">
        <Caption>By whom and when, settled ones included</Caption>
        <Table
          label="By whom and when"
          rows={d.made}
          id={(m) => `${m.day} ${m.by} ${m.suggested}`}
          columns={[
            { key: 'day', name: 'day', head: true, cell: (m) => (m.day ? dated(m.day) : 'not known') },
            {
              key: 'by',
              name: 'by',
              cell: (m) => (
                <Button
                  look="plain"
                  data-stop=""
                  onClick={() =>
                    setPick([
                      m.suggested
                        ? { kind: 'decided', text: 'suggested' }
                        : { kind: 'decided', text: 'by', name: m.by },
                    ])
                  }
                >
                  {m.by || 'nobody named'}
                </Button>
              ),
            },
            { key: 'how', name: '', cell: (m) => (m.suggested ? 'suggested, unread' : '') },
            { key: 'n', name: 'decisions', figure: true, cell: (m) => count(m.decisions) },
          ]}
        />
      </section>
      {d.notes.length > 0 && (
        <section aria-label="Decisions with a note" className="basis-full">
          <Caption>With a note</Caption>
          <Table
            label="Decisions with a note"
            rows={d.notes.slice(0, mostNotes)}
            id={(n) => `${n.respondent} ${n.category}`}
            columns={[
              {
                key: 'note',
                name: 'note',
                head: true,
                grow: true,
                cell: (n) => (
                  <Button
                    look="plain"
                    data-stop=""
                    onClick={() => setPick([{ kind: 'answers', answers: [n.respondent] }])}
                  >
                    {n.note}
                  </Button>
                ),
              },
              { key: 'category', name: 'category', cell: (n) => `${n.to === 'off' ? 'not ' : ''}${n.category}` },
              { key: 'by', name: 'by', cell: (n) => [n.by, n.day && dated(n.day)].filter(Boolean).join(', ') },
            ]}
          />
          {d.notes.length > mostNotes && (
            <p className="text-sm text-soft">and {count(d.notes.length - mostNotes)} more, older ones</p>
          )}
        </section>
      )}
    </div>
  );
}

const mostNotes = 60;

type What = 'needless' | 'suggested';

const taken: Record<What, { title: string; one: string; told: string }> = {
  needless: {
    title: 'Take needless decisions back',
    one: 'needless decision',
    told: 'would be left to the rules, which say the same now. If the rules change later, these answers follow them.',
  },
  suggested: {
    title: 'Take back what is suggested',
    one: 'suggested decision',
    told: 'that nobody has confirmed would be left to the rules.',
  },
};

/** Leaves decisions of a kind to the rules, in one edit. */
function TakeBack({ of, what, close }: { of: Line[]; what: What; close: () => void }) {
  const { edit } = useDesk();
  const n = of.reduce((n, c) => n + c[what].length, 0);
  const change: Edit = {
    kind: 'several',
    summary: `Took back ${many(n, taken[what].one)}`,
    decide: of.filter((c) => c[what].length).map((c) => ({ category: c.id, answers: c[what], to: 'rules' as const })),
  };
  return (
    <Dialog title={taken[what].title} close={close}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          close();
          await edit(change);
        }}
      >
        <p>
          {many(n, 'decision')} {taken[what].told}
        </p>
        <EffectOf change={change} />
        <Ends go="Take them back" ready close={close} />
      </form>
    </Dialog>
  );
}
