import { useMemo } from 'react';
import { bareChance } from '../drawing/figures';
import { Planned } from '../drawing/Planned';
import { type Measure, matrix, measures, network, sizeOf } from '../drawing/together';
import { useStyle } from '../drawing/useStyle';
import { useAddress } from '../lib/address';
import type { Together as Data } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count } from '../lib/format';
import { useAsk } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Choice, optionsOf } from '../parts/Select';
import { type Column, Table } from '../parts/Table';
import { Empty, Labelled, Skeleton } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { answerBase, answerBases, useDesign } from './design';
import { Titled } from './Titled';

const levels = { categories: 'categories only', nets: 'top level only', all: 'nets and categories' } as const;

/** Which categories come together in answers, or with which values of a segment. */
export default function Together() {
  const { question } = useDesk();
  const { focus, get, one } = useAddress();
  const { query, set } = useDesign();
  const base = answerBase(query.base);
  const rows = one('rows', Object.keys(levels) as (keyof typeof levels)[]);
  const measure = one('measure', Object.keys(measures) as Measure[]);
  const as = one('see', ['matrix', 'network', 'table'] as const);
  const asked = useAsk('together', { focus: query.focus, base, rows, with: get('with') || undefined });
  if (asked.error && !asked.data) return <Failed error={asked.error} again={() => asked.refetch()} />;
  if (!asked.data) return <Skeleton lines={8} />;
  const t = asked.data;
  return (
    <div className="grid max-w-400 gap-3 pr-1 pb-4" aria-busy={asked.isPlaceholderData}>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2 border-b pb-3">
        <ToggleGroup
          label="drawn as"
          value={as}
          options={optionsOf({ matrix: 'Matrix', network: 'Network', table: 'Table' })}
          change={(v) => set({ see: v === 'matrix' ? '' : v })}
        />
        <Labelled name="with">
          <Combobox
            label="with"
            value={get('with')}
            options={[
              { value: '', words: 'one another' },
              ...t.segments.map((s) => ({ value: s.name, words: `values of ${s.name}` })),
            ]}
            change={(v) => set({ with: v, pick: '' })}
          />
        </Labelled>
        <Choice
          label="measured by"
          value={measure}
          options={optionsOf(measures)}
          change={(v) => set({ measure: v === 'lift' ? '' : v })}
        />
        <Choice
          label="rows"
          value={rows}
          options={optionsOf(levels)}
          change={(v) => set({ rows: v === 'categories' ? '' : v, pick: '' })}
        />
        <Choice
          label="among"
          value={base}
          options={optionsOf(answerBases)}
          change={(v) => set({ base: v === 'answered' ? '' : v, pick: '' })}
        />
      </div>
      {asked.error && <Failed error={asked.error} again={() => asked.refetch()} />}
      <Titled
        drawn={{ kind: 'together', focus, base, rows, with: get('with') || undefined, as, measure }}
        usual={`What comes together${get('with') && `, with ${get('with')}`}`}
        under={question.name}
        ready={!!asked.now}
        notes={t.notes}
      >
        {(title) =>
          as === 'table' ? <Pairs t={t} measure={measure} /> : <Picture t={t} as={as} measure={measure} title={title} />
        }
      </Titled>
    </div>
  );
}

type PictureProps = { t: Data; as: 'matrix' | 'network'; measure: Measure; title: string };

function Picture({ t, as, measure, title }: PictureProps) {
  const { setPick } = useAddress();
  const { style } = useStyle();
  const drawn = useMemo(() => {
    const press = (...nodes: number[]) =>
      setPick([...t.narrow, ...nodes.flatMap((n) => itemAt(t.nodes, n).conditions)]);
    return as === 'matrix' ? matrix(t, measure, press, style) : network(t, measure, press, style);
  }, [t, as, measure, setPick, style]);
  if (!drawn.marks.length) return <Empty>{drawn.left}</Empty>;
  return (
    <div className="pt-2">
      <Planned name={title} plan={drawn} style={style} />
      {drawn.left && <p className="text-sm text-clay">{drawn.left}</p>}
    </div>
  );
}

/** Pairs that are listed. */
const most = 300;

type Pair = NonNullable<Data['pairs']>[number];

/** The pairs with all their figures, the strongest first. */
function Pairs({ t, measure }: { t: Data; measure: Measure }) {
  const { setPick, pickText } = useAddress();
  const rows = useMemo(
    () => [...t.pairs].sort((a, b) => sizeOf[measure](b) - sizeOf[measure](a)).slice(0, most),
    [t, measure],
  );
  const conditions = (p: Pair) => [...t.narrow, ...itemAt(t.nodes, p.a).conditions, ...itemAt(t.nodes, p.b).conditions];
  const on = (p: Pair) => pickText === JSON.stringify(conditions(p));
  const figure = (key: string, told: string, cell: (p: Pair) => string): Column<Pair> => ({
    key,
    name: key,
    told,
    figure: true,
    cell,
  });
  const columns: Column<Pair>[] = [
    {
      key: 'pair',
      name: 'pair',
      head: true,
      cell: (p) => (
        <Button
          look="bare"
          data-stop=""
          data-part="pair"
          aria-pressed={on(p)}
          className="rounded-sm px-1 text-left hover:bg-hair aria-pressed:bg-straw"
          onClick={() => setPick(conditions(p))}
        >
          {itemAt(t.nodes, p.a).path} + {itemAt(t.nodes, p.b).path}
        </Button>
      ),
    },
    figure('both', 'Answers with both.', (p) => count(p.both)),
    figure('lift', 'How many times as often they meet as they would if neither drew the other.', (p) =>
      p.lift.toFixed(2),
    ),
    figure('Jaccard', 'Answers with both, of those with either: 0 to 1.', (p) => p.jaccard.toFixed(3)),
    figure('G²', 'Log-likelihood ratio of the table of two by two.', (p) => p.g2.toFixed(1)),
    figure('p', 'Of G², corrected for all pairs (Benjamini-Hochberg).', (p) => bareChance(p.p)),
    { key: 'sure', name: 'sure', cell: (p) => (p.sure ? (p.lift > 1 ? 'more often' : 'less often') : '') },
  ];
  if (!rows.length) return <Empty>There are no two to hold against each other.</Empty>;
  return (
    <div className="overflow-x-auto pt-2">
      <Table label="Pairs" columns={columns} rows={rows} id={(p) => `${p.a} ${p.b}`} on={on} />
      {t.pairs.length > most && (
        <p className="text-sm text-clay">{count(t.pairs.length - most)} more pairs are not listed.</p>
      )}
    </div>
  );
}
