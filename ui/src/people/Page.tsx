import { type ReactNode, useEffect } from 'react';
import { Link } from '../parts/Button';
import { Who } from './Who';

/** A page beside the studies. */
export function Page({ title, children }: { title: string; children: ReactNode }) {
  useEffect(() => {
    document.title = `${title} · Aftermath`;
  }, [title]);
  return (
    <main id="main" tabIndex={-1} className="mx-auto grid max-w-240 gap-5 px-6 py-8.5 outline-none">
      <header>
        <p className="flex items-baseline justify-between">
          <Link
            to="/"
            className="font-serif text-xl leading-none font-semibold text-moss italic no-underline"
            look="bare"
          >
            Aftermath
          </Link>
          <Who />
        </p>
        <h1 className="mt-3.5">{title}</h1>
        <p className="pt-1">
          <Link to="/">All studies</Link>
        </p>
      </header>
      {children}
    </main>
  );
}

const th = 'pr-4.5 pb-1 text-left align-bottom text-sm font-normal whitespace-nowrap text-soft last:pr-0';
export const td = 'border-t border-hair py-1 pr-4.5 align-baseline last:pr-0';

/** The heads of a table's columns. */
export const Heads = ({ names }: { names: string[] }) => (
  <thead>
    <tr>
      {names.map((name) => (
        <th key={name} scope="col" className={th}>
          {name}
        </th>
      ))}
    </tr>
  </thead>
);
