import { memo, type ReactNode } from 'react';
import { type Content, cellOf } from '../drawing/contents';
import { columnName, testsOf } from '../drawing/says';
import type { Chart } from '../lib/api';
import { count, percent, tint } from '../lib/format';
import { itemAt } from '../lib/required';
import { Button } from '../parts/Button';
import { Heading } from '../parts/Tooltip';
import { begins, groupEnds } from './Head';

type Props = {
  c: Chart;
  row: number;
  table: boolean;
  shown: Content[];
  /** The greatest share of all categories, which a full bar stands for. */
  most: number;
  /** The columns whose cells the answers pane shows. */
  pressed: number[];
  opened: boolean;
  open: (opened: boolean) => void;
};

/** A row: its name, and a cell for each column. */
export const Line = memo(function Line(props: Props) {
  const { c, row, table, shown, pressed, opened, open } = props;
  const r = itemAt(c.rows, row);
  const top = r.depth === 0 && r.kind !== 'hidden';
  const rule = top && row > 0 ? 'border-t border-hair' : '';
  const ends = groupEnds(c);
  return (
    <tr className={r.top >= 0 ? tint(r.top) : '[--c:var(--color-soft)]'} data-row={r.kind}>
      <th
        scope="row"
        className={`sticky left-0 z-5 bg-paper py-0.5 pr-3 text-left [overflow-wrap:anywhere] ${rule}
          ${table ? 'max-w-76 min-w-40' : ''} ${top ? 'font-semibold' : 'font-normal'}
          ${r.kind === 'any' || r.kind === 'uncoded' ? 'text-soft' : ''}`}
        style={{ paddingLeft: 12 * r.depth }}
      >
        {r.short && <b className="inline-block min-w-5.5 text-xs font-bold text-(--c)">{r.short}</b>}
        {r.kind === 'others' ? (
          <Button look="plain" aria-expanded={opened} onClick={() => open(!opened)}>
            and {r.name}
          </Button>
        ) : (
          r.name
        )}
      </th>
      {itemAt(c.cells, row).map((_, i) => {
        const thin = itemAt(c.bases, i).answers < c.small;
        const group = table && shown.includes('tests') ? ends.get(i) : undefined;
        return [
          <td
            key={itemAt(c.columns, i).key}
            className={`pr-2 ${rule} ${begins(c, i) ? 'border-l border-l-line pl-2' : ''} ${thin ? 'text-soft italic' : ''}`}
          >
            <Cell {...props} column={i} on={pressed.includes(i)} />
          </td>,
          group !== undefined && (
            <td key={`tests ${group}`} className={`pr-2 pl-1 text-xs whitespace-nowrap text-soft ${rule}`}>
              {testsOf(c, row, group).map((t) => (
                <span key={t} className="block">
                  {t}
                </span>
              ))}
            </td>
          ),
        ];
      })}
    </tr>
  );
});

/** A share with what else a cell holds; pressing it opens its answers, which the table sees to. */
function Cell({ c, row, column, table, shown, most, on }: Props & { column: number; on: boolean }) {
  const r = itemAt(c.rows, row);
  const x = itemAt(itemAt(c.cells, row), column);
  const base = itemAt(c.bases, column).answers;
  const { given, share, letters, mark: sign, small } = cellOf(c, row, column, shown);
  const marks = [table && letters, sign].filter(Boolean).join(' ');
  const name = `${r.path}, ${columnName(c, column)}`;
  const counted = `${count(x.answers)} ${c.query.base === 'mentions' ? 'mentions' : 'answers'}`;
  const button = (inside: ReactNode, className: string) => (
    <Button
      look="bare"
      data-stop=""
      data-part={table ? 'cell' : 'bar'}
      data-cell={`${row} ${column}`}
      aria-pressed={on}
      aria-label={
        table
          ? undefined
          : `${name}: ${given ? percent(x.share) : 'no share'}, ${counted}${given && marks ? `, marked ${marks}` : ''}`
      }
      className={`relative w-full scroll-mt-20 scroll-mb-18 ${table ? 'scroll-ml-76' : 'scroll-ml-46'} rounded-sm hover:bg-hair aria-pressed:bg-straw
        forced-colors:aria-pressed:outline ${className}`}
    >
      {inside}
    </Button>
  );
  const mark = given && marks && (
    <small className={`text-xs font-semibold ${on ? 'text-ink' : 'text-clay'}`}>{marks}</small>
  );
  if (!table)
    return button(
      given ? (
        <>
          {r.kind !== 'any' && r.kind !== 'uncoded' ? (
            <span
              className="h-3 min-w-px flex-none bg-(--c) opacity-85 forced-color-adjust-none"
              style={{
                width: `calc((100% - 3.2rem) * ${Math.min(1, x.share / most)})`,
                opacity: base < c.small ? 0.45 : undefined,
              }}
            />
          ) : null}
          <span className="text-sm">{(100 * x.share).toFixed(1)}</span>
          {mark && <span className="truncate">{mark}</span>}
        </>
      ) : (
        <span className="text-soft">–</span>
      ),
      'flex h-6 min-w-15.5 items-center gap-1.25',
    );
  // Two to a line.
  const lines = small.flatMap((_, i) => (i % 2 ? [] : [small.slice(i, i + 2).join(' · ')]));
  return button(
    <>
      <span className="sr-only">{name}:</span>
      <span className="flex items-baseline justify-end gap-1.5 whitespace-nowrap">
        {mark}
        <b className="font-medium">{share}</b>
      </span>
      {lines.map((words) => (
        <small key={words} className={`text-xs whitespace-nowrap ${on ? 'text-ink' : 'text-soft'}`}>
          {words}
        </small>
      ))}
    </>,
    'grid min-w-13 px-1 py-0.5 text-right',
  );
}

type MeansProps = { c: Chart; table: boolean; given: (column: number) => boolean; tests: boolean };

/** The mean number of categories of an answer, by column. */
export function Means({ c, table, given, tests }: MeansProps) {
  const ends = groupEnds(c);
  return (
    <tr className="text-sm text-soft">
      <th scope="row" className="sticky left-0 z-5 border-t border-hair bg-paper py-1 text-left font-normal">
        <Heading text="How many categories an answer of the base has on average; a net does not count for itself.">
          categories, mean
        </Heading>
      </th>
      {c.mean.map((m, i) => [
        <td
          key={itemAt(c.columns, i).key}
          title={given(i) ? `95 % interval ${m.low.toFixed(2)} to ${m.high.toFixed(2)}` : undefined}
          className={`border-t border-hair pr-3 ${table ? 'text-right' : ''} ${begins(c, i) ? 'border-l border-l-line pl-2' : ''}`}
        >
          {given(i) ? m.value.toFixed(2) : '–'}
        </td>,
        table && tests && ends.has(i) && <td key={`tests ${i}`} className="border-t border-hair" />,
      ])}
    </tr>
  );
}
