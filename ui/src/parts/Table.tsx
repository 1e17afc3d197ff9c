import { type ColumnDef, tableFeatures, useTable } from '@tanstack/react-table';
import type { ReactNode } from 'react';
import { required } from '../lib/required';
import { useRoving } from './roving';
import { Heading } from './Tooltip';

const features = tableFeatures({});

export type Column<R> = {
  key: string;
  name: ReactNode;
  /** The definition of the figure and its base, for the tooltip of the heading. */
  told?: string;
  cell: (row: R) => ReactNode;
  /** Figures stand at the right. */
  figure?: boolean;
  /** Names the row. */
  head?: boolean;
  /** Takes the room that is left, so that figures stand near their names in a wide window. */
  grow?: boolean;
  className?: string;
};

type Props<R> = {
  label: string;
  columns: Column<R>[];
  rows: R[];
  id: (row: R) => string;
  /** A row that is to be seen. */
  on?: (row: R) => boolean;
  dim?: (row: R) => boolean;
  className?: string;
};

/** A table of figures with headings that explain themselves. What can be pressed in it is marked data-stop: one Tab stop. */
export function Table<R extends object>({ label, columns, rows, id, on, dim, className = '' }: Props<R>) {
  const table = useTable({
    features,
    columns: columns.map((c) => ({ id: c.key, meta: c, header: c.key }) as unknown as ColumnDef<typeof features, R>),
    data: rows,
    getRowId: id,
  });
  const stops = useRoving<HTMLTableElement>();
  const by = new Map(columns.map((c) => [c.key, c]));
  return (
    <table {...stops} data-part="table" className={`border-collapse ${className}`} aria-label={label}>
      <thead>
        {table.getHeaderGroups().map((g) => (
          <tr key={g.id}>
            {g.headers.map((h) => {
              const c = required(by.get(h.column.id));
              return (
                <th
                  key={h.id}
                  scope="col"
                  className={`pr-4.5 pb-1 align-bottom text-sm font-normal whitespace-nowrap text-soft last:pr-0
                    ${c.figure ? 'text-right' : 'text-left'} ${c.grow ? 'w-full' : ''}`}
                >
                  {c.told ? <Heading text={c.told}>{c.name}</Heading> : c.name}
                </th>
              );
            })}
          </tr>
        ))}
      </thead>
      <tbody>
        {table.getRowModel().rows.map((r) => (
          <tr
            key={r.id}
            className={`${on?.(r.original) ? 'bg-mosspale' : ''} ${dim?.(r.original) ? 'opacity-62' : ''}`}
            aria-selected={on?.(r.original)}
          >
            {r.getAllCells().map((x) => {
              const c = required(by.get(x.column.id));
              const Cell = c.head ? 'th' : 'td';
              return (
                <Cell
                  key={x.id}
                  scope={c.head ? 'row' : undefined}
                  className={`border-t border-hair py-0.75 pr-4.5 align-baseline font-normal last:pr-0
                    ${c.figure ? 'text-right whitespace-nowrap' : 'text-left'} ${c.className ?? ''}`}
                >
                  {c.cell(r.original)}
                </Cell>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
