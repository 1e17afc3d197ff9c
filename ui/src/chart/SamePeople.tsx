import { useMemo } from 'react';
import { bareChance } from '../drawing/figures';
import { flow } from '../drawing/flow';
import { Planned } from '../drawing/Planned';
import { useStyle } from '../drawing/useStyle';
import { useAddress } from '../lib/address';
import type { Flow } from '../lib/api';
import { usualTable } from '../lib/charts';
import { useDesk } from '../lib/edits';
import { count } from '../lib/format';
import { useAsk } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Choice, optionsOf } from '../parts/Select';
import { type Column, Table } from '../parts/Table';
import { Empty, Skeleton } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';
import { Titled } from './Titled';

const levels = { nets: 'top level only', categories: 'categories only' } as const;

/** What the same people said at two times. */
export default function SamePeople() {
  const { question } = useDesk();
  const { focus, focusText, get, one, set } = useAddress();
  const as = one('see', ['flow', 'table'] as const);
  const rows = one('rows', Object.keys(levels) as (keyof typeof levels)[]);
  const query = { focus: focusText, from: get('a') || undefined, to: get('b') || undefined, rows };
  const asked = useAsk('flow', query);
  if (asked.error && !asked.data)
    return (
      <>
        <Failed error={asked.error} again={() => asked.refetch()} />
        <Button look="plain" onClick={() => set({ a: '', b: '' })}>
          Go back to the first two times
        </Button>
      </>
    );
  if (!asked.data) return <Skeleton lines={8} />;
  const f = asked.data;
  if (!f.by)
    return (
      <>
        <h1 className="font-serif text-2xl font-semibold">The same people</h1>
        <Empty>
          Nobody answered twice, or no column is a wave. Answers are of the same person where the first column of
          identifiers says the same; in Data, columns are made identifiers and waves.
        </Empty>
      </>
    );
  const options = f.values.map((v) => ({ value: v, words: v }));
  return (
    <div className="grid max-w-400 gap-3 pr-1 pb-4" aria-busy={asked.isPlaceholderData}>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2 border-b pb-3">
        <ToggleGroup
          label="drawn as"
          value={as}
          options={optionsOf({ flow: 'Flow', table: 'Table' })}
          change={(v) => set({ see: v === 'flow' ? '' : v })}
        />
        <Choice
          label="from"
          value={f.from}
          options={options}
          change={(a) => set({ a, b: a === f.to ? f.from : f.to, pick: '' })}
        />
        <Choice
          label="to"
          value={f.to}
          options={options}
          change={(b) => set({ b, a: b === f.from ? f.to : f.from, pick: '' })}
        />
        <Choice
          label="rows"
          value={rows}
          options={optionsOf(levels)}
          change={(v) => set({ rows: v === 'nets' ? '' : v, pick: '' })}
        />
      </div>
      {asked.error && <Failed error={asked.error} again={() => asked.refetch()} />}
      <Titled
        drawn={{
          kind: 'flow',
          focus,
          by: f.by,
          from: f.from,
          to: f.to,
          rows,
          correction: usualTable.correction,
          as,
        }}
        usual={`The same people, ${f.from} and ${f.to}`}
        under={question.name}
        ready={!!asked.now}
        notes={f.notes}
      >
        {(title) => (as === 'table' ? <Changes f={f} /> : <Drawn f={f} title={title} />)}
      </Titled>
    </div>
  );
}

function Drawn({ f, title }: { f: Flow; title: string }) {
  const { setPick } = useAddress();
  const { style } = useStyle();
  const drawn = useMemo(
    () =>
      flow(
        f,
        {
          node: (i, first) =>
            setPick([...f.narrow, ...(first ? itemAt(f.nodes, i).fromFocus : itemAt(f.nodes, i).toFocus)]),
          link: (l) => setPick([...f.narrow, ...itemAt(f.nodes, l.from).fromFocus, ...itemAt(f.nodes, l.to).toFocus]),
        },
        style,
      ),
    [f, setPick, style],
  );
  if (!drawn.marks.length) return <Empty>{drawn.left}</Empty>;
  return (
    <div className="pt-2">
      <Planned name={title} plan={drawn} style={style} />
    </div>
  );
}

type Node = NonNullable<Flow['nodes']>[number];

/** How many people had each category at the two times, and who changed. */
function Changes({ f }: { f: Flow }) {
  const { setPick } = useAddress();
  const both = (n: Node) => [...f.narrow, ...n.fromFocus, ...n.toFocus];
  const columns: Column<Node>[] = [
    { key: 'name', name: 'category', head: true, cell: (n) => n.name },
    { key: 'before', name: f.from, figure: true, cell: (n) => count(n.before) },
    { key: 'after', name: f.to, figure: true, cell: (n) => count(n.after) },
    {
      key: 'both',
      name: 'both times',
      figure: true,
      cell: (n) => (
        <Button look="plain" data-stop="" onClick={() => setPick(both(n))}>
          {count(n.both)}
          <span className="sr-only"> people with {n.name} at both times</span>
        </Button>
      ),
    },
    { key: 'lost', name: 'only before', figure: true, cell: (n) => count(n.before - n.both) },
    { key: 'gained', name: 'only after', figure: true, cell: (n) => count(n.after - n.both) },
    {
      key: 'p',
      name: 'p',
      told: 'McNemar’s test of before against after, corrected for all categories; none where under ten people changed.',
      figure: true,
      cell: (n) => (n.tested ? bareChance(n.p) : '–'),
    },
  ];
  return (
    <div className="overflow-x-auto pt-2">
      <Table label="The same people" columns={columns} rows={f.nodes} id={(n) => n.id || 'none'} />
    </div>
  );
}
