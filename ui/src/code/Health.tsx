import { type ReactNode, useState } from 'react';
import { useAddress } from '../lib/address';
import type { Condition, Health as Look } from '../lib/api';
import { useDesk } from '../lib/edits';
import { bases, count, many, percent, shareIn, tint } from '../lib/format';
import { useAsk, useFrame } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Bar } from '../parts/Bar';
import { Button } from '../parts/Button';
import { NumberField } from '../parts/NumberField';
import { useRoving } from '../parts/roving';
import { Stops } from '../parts/Stops';
import { Table } from '../parts/Table';
import { Sentence, Short, Skeleton } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { RuleText } from '../rule/Rule';
import { Arrange } from './Arrange';

type Counted = Look['small'][number];

const both = (a: Counted, b: Counted): Condition[] =>
  a.id === b.id
    ? [{ kind: 'category', id: a.id }]
    : [
        { kind: 'category', id: a.id },
        { kind: 'category', id: b.id },
      ];

/** What in the code frame wants a look, on one page; every figure opens its answers. */
export default function Health() {
  const { focusText, set, setPick, pick } = useAddress();
  const [least, setLeast] = useState(30);
  const looked = useAsk('health', { focus: focusText, least });
  const lines = useFrame(focusText).data?.categories ?? [];
  const { edit } = useDesk();
  const [merging, setMerging] = useState<{ id: string; into?: string }>();
  const merged = lines.find((l) => l.id === merging?.id);
  if (looked.error && !looked.data) return <Failed error={looked.error} again={() => looked.refetch()} />;
  const h = looked.data;
  if (!h) return <Skeleton lines={6} />;
  const open = (c: Counted) => set({ tab: '', category: c.id, pick: JSON.stringify([{ kind: 'category', id: c.id }]) });
  const name = (c: Counted) => (
    <Button
      data-stop=""
      look="bare"
      className={`px-0.5 text-ink underline decoration-edge underline-offset-3 hover:decoration-moss ${tint(c.top)}`}
      onClick={() => open(c)}
      title="open it in the frame"
    >
      <Short>{c.short}</Short>
      {c.name}
    </Button>
  );
  const figure = (n: number, of: Condition[], label: string) => (
    <Button
      data-stop=""
      look="plain"
      className="text-right"
      aria-label={`${count(n)}: show ${label}`}
      aria-pressed={JSON.stringify(pick) === JSON.stringify(of)}
      onClick={() => setPick(of)}
    >
      {count(n)}
    </Button>
  );
  return (
    <div
      data-part="healthv"
      className="pr-2.5 [&_section]:pt-2.5 [&_section]:pb-3.5"
      aria-busy={looked.isPlaceholderData}
    >
      <Sentence>
        {h.base ? percent(h.coded / h.base) : '–'} of {many(h.base, 'answer')} coded.{' '}
        {h.rules.length ? `Rules that do nothing: ${count(h.rules.length)}` : 'Every rule does something'}; pairs of
        categories that overlap by half or more: {count(h.overlaps.length)}; categories under {least} answers:{' '}
        {count(h.small.length)}.{h.resting > 0 && ` Rules that are turned off and not counted: ${count(h.resting)}.`}
      </Sentence>
      <Part title="Rules that do nothing" none={h.rules.length ? '' : 'None.'}>
        <Stops as="ul">
          {h.rules.map((r) => (
            <li key={`${r.category.id}${r.unless}${r.rule}`} data-part="finding" className="py-0.75">
              {name(r.category)}{' '}
              <span className="font-mono text-lg break-words">
                {r.unless && <em className="text-soft">unless </em>}
                <RuleText source={r.rule} />
              </span>{' '}
              <span className={r.bad ? 'text-clay' : 'text-soft'}>{r.message}</span>{' '}
              <span className="whitespace-nowrap text-sm">
                <Button data-stop="" look="plain" onClick={() => open(r.category)}>
                  Change it
                </Button>{' '}
                {!r.unless && (
                  <Button
                    data-stop=""
                    look="plain"
                    aria-label={`Turn off ${r.rule}`}
                    onClick={() => edit({ kind: 'rest', category: r.category.id, rule: r.rule, on: true })}
                  >
                    Turn off
                  </Button>
                )}{' '}
                <Button
                  data-stop=""
                  look="plain"
                  aria-label={`Delete ${r.rule}`}
                  onClick={() =>
                    edit({ kind: 'rule', category: r.category.id, was: r.rule, rule: '', unless: r.unless })
                  }
                >
                  Delete
                </Button>
              </span>
            </li>
          ))}
        </Stops>
      </Part>
      <Part title="Terms that no rule looks for" none={h.unused.length ? '' : 'Every term is used in some rule.'}>
        <Stops className="flex flex-wrap items-baseline gap-2.5 gap-x-4.5 gap-y-0.75">
          {h.unused.map((t) => (
            <span key={t.label}>
              <Button
                data-stop=""
                look="plain"
                onClick={() =>
                  set({ tab: '', draft: t.label, pick: JSON.stringify([{ kind: 'term', text: t.label }]) })
                }
                title="a rule of it"
              >
                {t.label}
              </Button>{' '}
              {figure(t.answers, [{ kind: 'term', text: t.label }], `answers with ${t.label}`)}
              {t.uncoded > 0 && <span className="text-sm text-soft"> {count(t.uncoded)} uncoded</span>}
            </span>
          ))}
        </Stops>
        <p className="text-sm text-soft">
          Up to 40, those with the most uncoded answers first; stop words are left out. Pressing one begins a rule of
          it.
        </p>
      </Part>
      <Part
        title="Categories that overlap"
        none={h.overlaps.length ? '' : 'No pair has half of the smaller one in common.'}
      >
        <Table
          label="Categories that overlap"
          rows={h.overlaps.slice(0, 20).map((o) => {
            const [small, large] = o.a.answers <= o.b.answers ? [o.a, o.b] : [o.b, o.a];
            return { ...o, small, large };
          })}
          id={(o) => o.a.id + o.b.id}
          columns={[
            { key: 'small', name: 'smaller or equal', cell: (o) => name(o.small) },
            { key: 'large', name: 'and', cell: (o) => name(o.large) },
            {
              key: 'both',
              name: 'both',
              told: 'Answers of the focus with both',
              figure: true,
              cell: (o) => figure(o.both, both(o.small, o.large), `answers with ${o.small.name} and ${o.large.name}`),
            },
            {
              key: 'share',
              name: 'share',
              told: 'Of the answers of the smaller one',
              figure: true,
              cell: (o) => percent(o.share),
            },
            {
              key: 'merge',
              name: '',
              cell: (o) => (
                <Button
                  data-stop=""
                  look="plain"
                  aria-label={`Merge ${o.small.name} into ${o.large.name}`}
                  onClick={() => setMerging({ id: o.small.id, into: o.large.id })}
                >
                  Merge…
                </Button>
              ),
            },
          ]}
        />
        {h.overlaps.length > 20 && <p className="text-sm text-soft">and {count(h.overlaps.length - 20)} more pairs</p>}
      </Part>
      <Part
        title="Small categories"
        none={h.small.length ? '' : `No category has fewer than ${least} answers.`}
        tools={
          <span className="font-sans text-base font-normal text-soft">
            <NumberField label="under" value={least} least={1} change={setLeast} /> answers
          </span>
        }
      >
        <Stops className="flex flex-wrap items-baseline gap-2.5">
          {h.small.map((c) => (
            <span key={c.id}>
              {name(c)} {figure(c.answers, [{ kind: 'category', id: c.id }], `answers of ${c.name}`)}{' '}
              <Button
                data-stop=""
                look="plain"
                className="text-sm"
                aria-label={`Merge ${c.name} into another category`}
                onClick={() => setMerging({ id: c.id })}
              >
                Merge…
              </Button>
            </span>
          ))}
        </Stops>
      </Part>
      <Part title="Which come together" none={h.matrix.length < 2 ? 'It takes two categories.' : ''}>
        <Matrix h={h} pick={setPick} />
      </Part>
      <Part
        title="Coverage by segment"
        none={h.segments.length ? '' : 'No column of this study parts the respondents.'}
      >
        <Coverage h={h} figure={figure} />
      </Part>
      {merged && (
        <Arrange kind="merge" line={merged} lines={lines} into={merging?.into} close={() => setMerging(undefined)} />
      )}
    </div>
  );
}

type PartProps = { title: string; none: string; tools?: ReactNode; children: ReactNode };

function Part({ title, none, tools, children }: PartProps) {
  return (
    <section aria-label={title}>
      <h2 className="flex items-baseline gap-2.5 justify-between">
        {title} {tools}
      </h2>
      {none ? <p className="text-soft">{none}</p> : children}
    </section>
  );
}

/** Share of the row's answers that the column's category has too; the deeper the colour, the greater it is. */
function Matrix({ h, pick }: { h: Look; pick: (c: Condition[]) => void }) {
  const [over, setOver] = useState<[number, number]>();
  const stops = useRoving<HTMLTableElement>({ across: true });
  const leaves = h.leaves.slice(0, h.matrix.length);
  const [row, column] = over ?? [];
  const a = row === undefined ? undefined : leaves[row];
  const b = column === undefined ? undefined : leaves[column];
  const n = row === undefined || column === undefined ? 0 : itemAt(itemAt(h.matrix, row), column);
  return (
    <>
      <p className="text-sm text-soft" aria-live="polite">
        {a && b && a !== b
          ? `${many(n, 'answer')} with ${a.name} and ${b.name}: ${a.answers ? percent(n / a.answers) : '–'} of ${a.name}.`
          : 'A cell is the share of its row’s answers that its column has too. Point at one to read it, press it for the answers.'}
      </p>
      <div className="overflow-x-auto">
        <table
          {...stops}
          data-part="matrix"
          className="border-collapse text-sm [&_td]:p-px [&_th]:font-normal [&_th[scope=row]]:max-w-52
            [&_th[scope=row]]:truncate [&_th[scope=row]]:pr-2 [&_th[scope=row]]:text-left"
        >
          <thead>
            <tr>
              <td />
              <td />
              {leaves.map((c) => (
                <th key={c.id} scope="col" className={tint(c.top)} title={c.name}>
                  <b className="text-xs font-bold text-(--c)">{c.short}</b>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {leaves.map((r, i) => (
              <tr key={r.id} className={tint(r.top)}>
                <th scope="row">
                  <b className="text-xs font-bold text-(--c)">{r.short}</b> {r.name}
                </th>
                <td className="pr-1.5! text-right text-soft">{count(r.answers)}</td>
                {leaves.map((c, j) => {
                  const share = r.answers ? itemAt(itemAt(h.matrix, i), j) / r.answers : 0;
                  return (
                    <td key={c.id}>
                      {i === j ? (
                        <span className="block h-6 w-7 rounded-sm bg-hair" />
                      ) : (
                        itemAt(itemAt(h.matrix, i), j) > 0 && (
                          <Button
                            look="bare"
                            data-stop=""
                            className="block h-6 w-7 rounded-sm
                              bg-[color-mix(in_srgb,var(--color-straw)_var(--part),transparent)] text-center! text-xs
                              forced-colors:border"
                            style={{ '--part': `${Math.round(100 * Math.sqrt(share))}%` } as React.CSSProperties}
                            aria-label={`${Math.round(100 * share)} %: ${count(itemAt(itemAt(h.matrix, i), j))} answers with ${r.name} and ${c.name}`}
                            onPointerEnter={() => setOver([i, j])}
                            onFocus={() => setOver([i, j])}
                            onPointerLeave={() => setOver(undefined)}
                            onClick={() => pick(both(r, c))}
                          >
                            {share >= 0.095 ? Math.round(100 * share) : ''}
                          </Button>
                        )
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {h.leaves.length > leaves.length && (
        <p className="text-sm text-soft">
          The first {count(leaves.length)} of {count(h.leaves.length)} categories of the frame.
        </p>
      )}
    </>
  );
}

type CoverageProps = { h: Look; figure: (n: number, of: Condition[], label: string) => ReactNode };

/** How much of each segment is coded, against all. */
function Coverage({ h, figure }: CoverageProps) {
  const variables = [...new Set(h.segments.map((s) => s.variable))];
  const [by, setBy] = useState('');
  const shown = variables.includes(by) ? by : (variables[0] ?? '');
  const all = h.base ? h.coded / h.base : 0;
  const is = (s: Look['segments'][number]): Condition => ({
    kind: 'variable',
    name: s.variable,
    op: '=',
    values: [s.value],
  });
  return (
    <>
      <p className="pb-2">
        <ToggleGroup label="By" value={shown} options={variables.map((v) => ({ value: v, words: v }))} change={setBy} />
      </p>
      <Table
        label="Coverage by group"
        rows={h.segments.filter((s) => s.variable === shown)}
        id={(s) => s.value}
        dim={(s) => s.base < bases.small}
        columns={[
          { key: 'value', name: shown, head: true, cell: (s) => s.value },
          {
            key: 'answers',
            name: 'answers',
            told: 'Answers of the focus there that say something: the base',
            figure: true,
            cell: (s) => figure(s.base, [is(s)], s.value),
          },
          {
            key: 'not coded',
            name: 'not coded',
            told: 'Those of them that no category has',
            figure: true,
            cell: (s) => figure(s.base - s.coded, [is(s), { kind: 'coded', not: true }], `${s.value}, not coded`),
          },
          {
            key: 'coded',
            name: 'coded',
            told: 'Share of the base that some category has, unweighted',
            figure: true,
            cell: (s) => shareIn(s.base, s.share),
          },
          { key: 'bar', name: '', cell: (s) => <Bar share={s.base < bases.tiny ? 0 : s.share} all={all} /> },
          {
            key: 'differs',
            name: '',
            cell: (s) => (
              <span className="text-soft">
                {s.differs > 0 ? 'above the rest' : s.differs < 0 ? 'below the rest' : ''}
              </span>
            ),
          },
        ]}
      />
      <p className="text-sm text-soft">
        Unweighted; the line stands at {percent(all)}, all of the focus. “Above” and “below”: two-sided z test against
        the rest at 5 %, adjusted for {count(h.tested)} tests. Bases under {bases.small} are dimmed, under {bases.tiny}{' '}
        get no share.
      </p>
    </>
  );
}
