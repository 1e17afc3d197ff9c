import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Edit, Suggester, TestedRows } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many, percent } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { Table } from '../parts/Table';
import { Tabs } from '../parts/Tabs';
import { Caption, Empty, Sentence, Skeleton } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import { Learning } from './Under';

/** What is left is likely to be, how well that is told, and the way to put on what is likely, unread. */
export default function LikelyOnes() {
  const { focusText } = useAddress();
  const found = useAsk(
    'suggester',
    { focus: focusText },
    { refetchInterval: (q) => (q.state.data?.current === false ? 1500 : false) },
  );
  const [least, setLeast] = useState<number>();
  if (found.error && !found.data) return <Failed error={found.error} again={() => found.refetch()} />;
  const s = found.data;
  if (!s) return <Learning />;
  if (!s.categories)
    return (
      <Empty>
        Nothing could be learned yet: a category is learned from five answers that have it, by a rule or by hand. Code
        some first, then come back.
      </Empty>
    );
  return (
    <div className="max-w-300 pr-2" aria-busy={found.isPlaceholderData}>
      <Sentence>
        {many(s.categories, 'category', 'categories')} learned from {many(s.given, 'coded answer')}
        {s.current ? '' : `, as they were at revision ${s.revision}; the present coding is being learned`}. Nothing is
        coded by it unless you say so.
      </Sentence>
      {s.tested.asLeft.macroF1 < tellsLittle && (
        <p className="pb-2 text-clay">
          It tells little here: without the words that the rules look for, mean F1 is{' '}
          {s.tested.asLeft.macroF1.toFixed(2)}. Groups and rules take you further; it learns from what you decide.
        </p>
      )}
      <div className="grid gap-x-10 gap-y-5 2xl:grid-cols-[auto_minmax(0,1fr)]">
        <section aria-label="What is left, by chance">
          <Caption>What is left of the focus, if all with at least a chance were put on</Caption>
          <Table
            label="What is left, by chance"
            rows={s.thresholds}
            id={(t) => String(t.least)}
            columns={[
              { key: 'least', name: 'chance', head: true, cell: (t) => `${Math.round(100 * t.least)} % or more` },
              { key: 'answers', name: 'answers', figure: true, cell: (t) => count(t.answers) },
              {
                key: 'pairs',
                name: 'categories put on',
                told: 'Pairs of answer and category: an answer may be likely to have several',
                figure: true,
                cell: (t) => count(t.pairs),
              },
              {
                key: 'wrong',
                name: 'wrong, about',
                told: 'How many of these would be wrong, by their chances',
                figure: true,
                cell: (t) => (t.pairs ? about(t.wrong) : '–'),
              },
              {
                key: 'do',
                name: '',
                cell: (t) =>
                  t.answers > 0 && (
                    <Button look="plain" data-stop="" onClick={() => setLeast(t.least)}>
                      look at them…
                    </Button>
                  ),
              },
            ]}
          />
          {s.unlearned.length > 0 && (
            <p className="max-w-120 pt-2 text-sm text-soft">
              Not learned, with too few answers: {s.unlearned.slice(0, 8).join(', ')}
              {s.unlearned.length > 8 && ` and ${count(s.unlearned.length - 8)} more`}.
            </p>
          )}
        </section>
        <HowWell of={s} />
      </div>
      {least !== undefined && <PutOn least={least} close={() => setLeast(undefined)} />}
    </div>
  );
}

/** Mean F1 on answers as those that are left, under which likely categories are no guide. */
const tellsLittle = 0.4;

/** An expected number, which is not 0 just because it is small. */
const about = (n: number) => (n < 0.5 ? 'under 1' : count(Math.round(n)));

const kinds = { asLeft: 'without the words of their rules', asIs: 'as they stand' } as const;

/** How well categories are told, on answers that were not learned from. */
function HowWell({ of: s }: { of: Suggester }) {
  const [kind, setKind] = useState<keyof typeof kinds>('asLeft');
  const t: TestedRows = s.tested[kind];
  const name = (id: string) => s.names[id] ?? 'a category that is gone';
  return (
    <section aria-label="How well they are told">
      <Tabs
        label="Coded answers"
        value={kind}
        change={setKind}
        tabs={(['asLeft', 'asIs'] as const).map((k) => ({ value: k, words: `Tested ${kinds[k]}` }))}
      >
        <p className="max-w-160 pb-2 text-sm text-soft">
          {count(t.answers)} coded answers, each told by what was learned from others, of other categories.{' '}
          {kind === 'asLeft'
            ? 'The words that their rules look for are taken out first: what is left has none of those.'
            : 'With the words that their rules look for, which what is left does not have.'}{' '}
          Mean F1 of the categories {t.macroF1.toFixed(2)}. Chances are off by {percent(t.off)} on average.
        </p>
        <div className="flex flex-wrap items-start gap-x-8 gap-y-4">
          <div>
            <Caption>Are the chances right?</Caption>
            <Reliability of={t} />
          </div>
          <div>
            <Caption>By category, at a chance of 50 % or more</Caption>
            <Table
              label="How well each category is told"
              rows={t.categories}
              id={(c) => c.id}
              columns={[
                { key: 'category', name: 'category', head: true, cell: (c) => name(c.id) },
                { key: 'both', name: 'right', figure: true, cell: (c) => count(c.both) },
                { key: 'only', name: 'wrong', figure: true, cell: (c) => count(c.only) },
                { key: 'missed', name: 'missed', figure: true, cell: (c) => count(c.missed) },
                { key: 'f1', name: 'F1', figure: true, cell: (c) => c.f1.toFixed(2) },
              ]}
            />
          </div>
          {t.confusions.length > 0 && (
            <div>
              <Caption>Taken for another</Caption>
              <Table
                label="Categories taken for others"
                rows={t.confusions.slice(0, 12)}
                id={(c) => `${c.told} ${c.has}`}
                columns={[
                  { key: 'told', name: 'told', head: true, cell: (c) => name(c.told) },
                  { key: 'has', name: 'has instead', cell: (c) => name(c.has) },
                  { key: 'n', name: 'answers', figure: true, cell: (c) => count(c.answers) },
                ]}
              />
            </div>
          )}
        </div>
      </Tabs>
    </section>
  );
}

/** For each band of chances, the share that has the category in truth: on the line, they say what they are. */
function Reliability({ of: t }: { of: TestedRows }) {
  const size = 190;
  const x = (p: number) => 26 + p * (size - 36);
  const y = (p: number) => size - 22 - p * (size - 34);
  const bands = t.bands.filter((b) => b.number > 0);
  return (
    <figure>
      <svg
        viewBox={`0 0 ${size + 12} ${size}`}
        className="w-60"
        role="img"
        aria-label="Chance against share, by bands of chances"
      >
        <line x1={x(0)} y1={y(0)} x2={x(1)} y2={y(1)} className="stroke-edge" strokeDasharray="3 3" />
        <line x1={x(0)} y1={y(0)} x2={x(1)} y2={y(0)} className="stroke-line" />
        <line x1={x(0)} y1={y(0)} x2={x(0)} y2={y(1)} className="stroke-line" />
        {[0, 0.5, 1].map((p) => (
          <g key={p} className="fill-soft text-[9px]">
            <text x={x(p)} y={size - 10} textAnchor="middle">
              {Math.round(100 * p)} %
            </text>
            <text x={x(0) - 3} y={y(p) + 3} textAnchor="end">
              {Math.round(100 * p)}
            </text>
          </g>
        ))}
        <polyline
          points={bands.map((b) => `${x(b.mean)},${y(b.has)}`).join(' ')}
          className="fill-none stroke-moss"
          strokeWidth="1.5"
        />
        {bands.map((b) => (
          <circle key={b.from} cx={x(b.mean)} cy={y(b.has)} r="3" className="fill-moss">
            <title>
              {count(b.number)} pairs told at {percent(b.mean)}: {percent(b.has)} have it
            </title>
          </circle>
        ))}
      </svg>
      <figcaption className="max-w-56 text-sm text-soft">
        Across: the chance that was told. Up: the share that has the category.
      </figcaption>
      <div className="sr-only">
        <Table
          label="Chance against share"
          rows={bands}
          id={(b) => String(b.from)}
          columns={[
            { key: 'n', name: 'pairs', cell: (b) => count(b.number) },
            { key: 'mean', name: 'chance told', cell: (b) => percent(b.mean) },
            { key: 'has', name: 'share that has it', cell: (b) => percent(b.has) },
          ]}
        />
      </div>
    </figure>
  );
}

/** So many answers are picked out at once: an address line holds no more. */
const mostPicked = 300;

/** All that is likely enough, with what it would cost, before it is put on. */
function PutOn({ least, close }: { least: number; close: () => void }) {
  const { edit } = useDesk();
  const { focusText, setPick } = useAddress();
  const found = useAsk('likely', { focus: focusText, least });
  const s = found.now;
  const pairs = s?.categories.reduce((n, c) => n + c.answers.length, 0) ?? 0;
  const percentage = Math.round(100 * least);
  const change: Edit | undefined = s?.categories.length
    ? {
        kind: 'several',
        summary: `Put on what is likely by ${percentage} % or more: ${many(s.answers, 'answer')}`,
        decide: s.categories.map((c) => ({ category: c.id, answers: c.answers, to: 'on', suggested: true })),
      }
    : undefined;
  return (
    <Dialog title={`Put on what is likely by ${percentage} % or more`} close={close} wide>
      {found.error && <Failed error={found.error} again={() => found.refetch()} />}
      {!s && !found.error && <Skeleton lines={6} />}
      {s && (
        <form
          onSubmit={async (e) => {
            e.preventDefault();
            close();
            if (change) await edit(change);
          }}
        >
          <p className="pb-2">
            {many(s.answers, 'answer')} of what is left would get {many(pairs, 'category', 'categories')}. By their
            chances <b>{s.wrong < 1 ? 'fewer than one' : `about ${count(Math.round(s.wrong))}`}</b> of these would be
            wrong. They are marked as suggested and unread until somebody confirms them; every file says so.
            {s.more > 0 && ` These are the surest; ${count(s.more)} more are left for another time.`}
          </p>
          <Table
            label="What would be put on"
            rows={s.categories}
            id={(c) => c.id}
            columns={[
              { key: 'category', name: 'category', head: true, grow: true, cell: (c) => c.name },
              {
                key: 'answers',
                name: 'answers',
                figure: true,
                cell: (c) => (
                  <Button
                    look="plain"
                    data-stop=""
                    aria-label={`${count(c.answers.length)} answers likely to be ${c.name}: show them`}
                    onClick={() => {
                      setPick([{ kind: 'answers', answers: c.answers.slice(0, mostPicked) }]);
                      close();
                    }}
                  >
                    {count(c.answers.length)}
                  </Button>
                ),
              },
              { key: 'least', name: 'chance from', figure: true, cell: (c) => percent(c.least) },
              { key: 'wrong', name: 'wrong, about', figure: true, cell: (c) => c.wrong.toFixed(1) },
            ]}
          />
          {change && <EffectOf change={change} />}
          <Ends go="Put them on" ready={!!change} close={close} />
        </form>
      )}
    </Dialog>
  );
}
