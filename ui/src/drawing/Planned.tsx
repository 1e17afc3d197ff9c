import { lazy, Suspense } from 'react';
import { Skeleton } from '../parts/Text';
import type { Brush, Plan } from './picture';
import type { Style } from './style';

const Drawing = lazy(() => import('./Drawing'));

type Props = { name: string; plan: Plan; style: Style; still?: boolean; brush?: Brush };

/** Draws a plan; what draws is loaded with the first picture. */
export const Planned = ({ name, plan: { option, marks, height, width }, style, still, brush }: Props) => (
  <Suspense fallback={<Skeleton lines={8} />}>
    <Drawing
      name={name}
      option={option}
      marks={marks}
      height={height}
      width={width}
      look={style}
      still={still}
      brush={brush}
    />
  </Suspense>
);
