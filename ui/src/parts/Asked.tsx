import type { UseQueryResult } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Refusal } from '../lib/api';
import { useLost } from '../lib/live';
import { Button } from './Button';
import { Skeleton } from './Text';

/** Why something is not there, and the way to ask for it again. */
export function Failed({ error, again }: { error: Error; again?: () => void }) {
  const lost = useLost();
  // That the server is away is said once, above the page.
  if (lost && error instanceof Refusal && error.status === 0)
    return <p className="text-soft">Waiting for the server…</p>;
  return (
    <p className="text-clay" role="alert">
      {error.message}{' '}
      {again && (
        <Button look="plain" onClick={again}>
          Try again
        </Button>
      )}
    </p>
  );
}

type Props<T> = {
  query: Pick<UseQueryResult<T>, 'data' | 'error' | 'refetch'>;
  /** Lines of the skeleton while nothing is there. */
  lines?: number;
  children: (data: T) => ReactNode;
};

/** What was asked for, once it is there: an error is said above what is still at hand. */
export function Asked<T>({ query, lines = 4, children }: Props<T>) {
  const { data, error, refetch } = query;
  return (
    <>
      {error && <Failed error={error} again={() => refetch()} />}
      {data !== undefined ? children(data) : !error && <Skeleton lines={lines} />}
    </>
  );
}
