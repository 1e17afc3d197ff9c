import type { ComponentProps } from 'react';
import { useRoving } from './roving';

type Props = ComponentProps<'div'> & { across?: boolean; as?: 'div' | 'ul' | 'ol' | 'section' };

/** A list that is one Tab stop: arrows go from one of its elements marked data-stop to the next. */
export function Stops({ across, as: List = 'div', ...more }: Props) {
  const stops = useRoving<HTMLDivElement>({ across });
  return <List {...(stops as object)} {...(more as object)} />;
}
