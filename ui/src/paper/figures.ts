import { bareChance, netScore, signed } from '../drawing/figures';
import type { Plan } from '../drawing/picture';
import { type Drawn, drawn, pictureOf, rowsOf } from '../drawing/plan';
import { markOfCell } from '../drawing/says';
import type { Style } from '../drawing/style';
import { type Measure, measures, sizeOf, written } from '../drawing/together';
import type {
  Chart,
  Design,
  DesignOf,
  Figures,
  FiguresOf,
  Flow,
  MeanRow,
  Means,
  SideBySide,
  Together,
} from '../lib/api';
import { count, many, percent } from '../lib/format';
import { itemAt } from '../lib/required';
import { type Cell, type Table, tableOf } from './table';

/** A chart as files have it. */
export type Made = {
  /** Nothing where it is a table. */
  plan?: Plan;
  /** The same figures. */
  table: Table;
  /** What neither picture nor table shows, in a sentence. */
  left: string;
  notes: string[];
  /** What programs that draw charts of their own draw. */
  own?: { chart: Chart; as: Drawn };
};

const cell = (text: string, ...small: string[]): Cell => ({ text, small });
const head = (...words: string[][]): Table['head'] => [words.map((w) => ({ words: w, span: 1 }))];

/** Under so many answers no mean is said. */
const tiny = 10;

/** A number with and without each category, as Means lists it. */
function meansTable(m: Means): Table {
  const mean = (s: MeanRow['with']) => (s.answers >= tiny ? s.mean.toFixed(2) : '–');
  const net = (s: MeanRow['with']) => (s.answers >= tiny ? netScore(s.net.score) : '–');
  const band = (s: MeanRow['with'], i: number) => (s.answers >= tiny ? percent(itemAt(s.bands, i)) : '–');
  const rows = m.rows.map((r) => ({
    depth: r.depth,
    sum: !r.id,
    cells: [
      cell(`${r.short ? `${r.short}  ` : ''}${r.name}`),
      cell(mean(r.with), `base ${count(r.with.answers)}`),
      cell(mean(r.without), `base ${count(r.without.answers)}`),
      r.tested
        ? cell(
            `${signed(r.apart.difference)}${r.adjusted < 0.05 ? (r.apart.difference > 0 ? '  ▲' : '  ▼') : ''}`,
            `${signed(r.apart.low)} to ${signed(r.apart.high)}`,
          )
        : cell('–', 'not tested'),
      cell(r.tested ? bareChance(r.adjusted) : ''),
      cell(r.tested ? signed(r.apart.d) : ''),
      cell(r.correlated ? signed(r.correlation.pearson) : ''),
      ...m.bands.map((_, i) => cell(band(r.with, i), band(r.without, i))),
      ...(m.scale ? [cell(net(r.with), net(r.without))] : []),
    ],
  }));
  return {
    head: head(
      [m.label],
      ['with'],
      ['without'],
      ['difference', 'with 95 % interval'],
      ['p'],
      ['d'],
      ['r'],
      ...m.bands.map((b) => [b, 'with, without']),
      ...(m.scale ? [['net score', 'with, without']] : []),
    ),
    rows,
  };
}

/** Pairs that a table lists. */
const mostPairs = 40;

/** Pairs with their figures, the strongest first; and what is not listed, in a sentence. */
function pairsTable(t: Together, measure: Measure): { table: Table; left: string } {
  const pairs = [...t.pairs].sort((a, b) => sizeOf[measure](b) - sizeOf[measure](a));
  const rows = pairs.slice(0, mostPairs).map((x) => ({
    depth: 0,
    sum: false,
    cells: [
      cell(`${itemAt(t.nodes, x.a).path} + ${itemAt(t.nodes, x.b).path}`),
      cell(count(x.both)),
      cell(x.lift.toFixed(2)),
      cell(x.jaccard.toFixed(3)),
      cell(x.g2.toFixed(1)),
      cell(bareChance(x.p)),
      cell(x.sure ? (x.lift > 1 ? 'more often' : 'less often') : ''),
    ],
  }));
  const more = pairs.length - rows.length;
  return {
    table: { head: head(['pair'], ['both'], ['lift'], ['Jaccard'], ['G²'], ['p'], ['sure']), rows },
    left: more > 0 ? `${many(more, 'more pair')} ${more === 1 ? 'is' : 'are'} not listed.` : '',
  };
}

/** Columns up to which a matrix is a table that can be read. */
const mostAcross = 14;

/** Each with each, as the matrix is drawn; nothing where it would be too wide. */
function matrixTable(t: Together, measure: Measure): Table | undefined {
  const places = t.nodes.map((_, i) => i);
  const lines = places.filter((i) => itemAt(t.nodes, i).kind === 'category');
  const values = places.filter((i) => itemAt(t.nodes, i).kind === 'value');
  const across = values.length ? values : lines;
  if (across.length > mostAcross) return undefined;
  const at = new Map(t.pairs.map((x) => [`${x.a} ${x.b}`, x]));
  const named = (i: number) => [itemAt(t.nodes, i).short, itemAt(t.nodes, i).name].filter(Boolean).join('  ');
  return {
    head: head(['meet by'], ...across.map((i) => [named(i), count(itemAt(t.nodes, i).answers)])),
    rows: lines.map((a) => ({
      depth: 0,
      sum: false,
      cells: [
        cell(named(a)),
        ...across.map((b) => {
          const pair = at.get(`${a} ${b}`) ?? at.get(`${b} ${a}`);
          return pair ? cell(written[measure](pair), ...(pair.sure ? ['sure'] : [])) : cell('');
        }),
      ],
    })),
  };
}

/** How many people had each category at two times, and who changed. */
const flowTable = (f: Flow): Table => ({
  head: head(['category'], [f.from], [f.to], ['both times'], ['only before'], ['only after'], ['p']),
  rows: f.nodes.map((n) => ({
    depth: 0,
    sum: n.top < 0,
    cells: [
      cell(n.name),
      ...[n.before, n.after, n.both, n.before - n.both, n.after - n.both].map((x) => cell(count(x))),
      cell(n.tested ? bareChance(n.p) : '–'),
    ],
  })),
});

/** Several questions side by side; a blank where a question has no such category. */
function questionsTable(t: SideBySide): Table {
  const columns = t.questions.flatMap((q, i) => q.columns.map((c, k) => ({ q, i, c, k })));
  const blank = { words: [''], span: 1 };
  return {
    head: [
      [blank, ...t.questions.map((q) => ({ words: [q.name], span: q.columns.length }))],
      [
        { words: [t.mentions ? 'share of mentions' : 'share'], span: 1 },
        ...columns.map(({ q, c, k }) => ({
          words: [k ? c.values.join(', ') : 'All', `base ${count(itemAt(q.bases, k).answers)}`],
          span: 1,
        })),
      ],
    ],
    rows: t.rows.map((r) => ({
      depth: r.depth,
      sum: r.kind !== 'category',
      cells: [
        cell(`${r.short ? `${r.short}  ` : ''}${r.name}`),
        ...columns.map(({ q, i, k }) => {
          const x = itemAt(r.cells, i).cells[k];
          if (!x) return cell('');
          const mark = markOfCell(x);
          const given = itemAt(q.bases, k).answers >= t.tiny;
          return cell(given ? `${[percent(x.share), mark].filter(Boolean).join('  ')}` : '–', count(x.answers));
        }),
      ],
    })),
  };
}

/** What a kind of chart has in a file besides its picture. */
type Told = Omit<Made, 'plan' | 'left'> & { left?: string };

const told: { [K in Design['kind']]: (f: FiguresOf<K>, d: DesignOf<K>) => Told } = {
  table: (f, d) => {
    const picture = drawn.find((x) => x === (d.as ?? 'bars'));
    return {
      table: tableOf(f, rowsOf(f), d.cells),
      notes: f.notes,
      own: picture && { chart: f, as: picture },
    };
  },
  means: (f) => ({ table: meansTable(f), notes: f.notes }),
  together: (f, d) => {
    const measure = d.measure ?? 'lift';
    const whole = d.as !== 'network' && d.as !== 'table' ? matrixTable(f, measure) : undefined;
    const { table, left } = whole ? { table: whole, left: '' } : pairsTable(f, measure);
    return { table, left, notes: [`Shown by ${measures[measure]}.`, ...f.notes] };
  },
  flow: (f) => ({ table: flowTable(f), notes: f.notes }),
  questions: (f) => ({ table: questionsTable(f), notes: f.notes }),
};

/** Works a chart out as picture and table. The figures are of the kind of the design. */
export function madeOf(f: Figures, d: Design, style: Style): Made {
  const plan = d.as === 'table' ? undefined : pictureOf(f, d, style);
  const { left, ...own } = (told[d.kind] as (f: Figures, d: Design) => Told)(f, d);
  return {
    ...own,
    plan: plan?.marks.length ? plan : undefined,
    left: [plan?.left, left].filter(Boolean).join(' '),
  };
}

/** The figures that stand in the place of a picture, where there is none: with what a picture of a table doesn't say. */
export const figuresOf = ({ own, table }: Pick<Made, 'own' | 'table'>, cells = 'answers,letters,marks') =>
  own ? tableOf(own.chart, rowsOf(own.chart), cells) : table;
