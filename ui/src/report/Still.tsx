import { lazy, Suspense } from 'react';
import type { Style } from '../drawing/style';
import type { Section } from '../lib/api';
import { itemsOf } from '../paper/flow';
import { Sheet } from '../paper/Sheet';
import { Skeleton } from '../parts/Text';

const Drawing = lazy(() => import('../drawing/Drawing'));

/** A part of a report as it reads. */
export function Still({ section, style }: { section: Section; style: Style }) {
  return (
    <Sheet
      items={itemsOf(section, style)}
      figure={({ name, plan }) => (
        <Suspense fallback={<Skeleton lines={8} />}>
          <Drawing name={name} {...plan} look={style} still />
        </Suspense>
      )}
    />
  );
}
