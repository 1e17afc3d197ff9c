import { useInfiniteQuery } from '@tanstack/react-query';
import { api, take } from '../lib/api';
import { count, moment } from '../lib/format';
import { keys, useStudies } from '../lib/queries';
import { required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { fetchFile } from '../parts/save';
import { Empty, Skeleton } from '../parts/Text';
import { Heads, Page, td } from './Page';

const page = 200;

/** Who did what, for an admin. */
export default function Log() {
  const studies = useStudies();
  const log = useInfiniteQuery({
    queryKey: keys.log,
    queryFn: ({ pageParam, signal }) =>
      take(api.GET('/api/v1/log', { params: { query: { before: pageParam } }, signal })),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < page ? undefined : required(last.at(-1)).id),
    refetchOnMount: 'always',
  });
  const lines = log.data?.pages.flat() ?? [];
  const study = (id: number | undefined) => id && (studies.data?.find((s) => s.id === id)?.name ?? `study ${id}`);
  return (
    <Page title="Log">
      <p className="flex items-baseline gap-2.5">
        <Button onClick={() => fetchFile('/api/v1/log/file')}>All of it as CSV</Button>
        <span className="text-soft">Who did what, the newest first. Nothing in it can be changed from here.</span>
      </p>
      {log.error && <Failed error={log.error} again={() => log.refetch()} />}
      {log.isPending && <Skeleton lines={8} />}
      {log.data && !lines.length && <Empty>Nothing was done yet.</Empty>}
      {!!lines.length && (
        <table className="w-full border-collapse" aria-label="Log">
          <Heads names={['When', 'Who', 'What', 'Study', 'From']} />
          <tbody>
            {lines.map((l) => (
              <tr key={l.id}>
                <td className={`${td} whitespace-nowrap`}>{moment(l.at)}</td>
                <td className={`${td} whitespace-nowrap`}>{l.who || <span className="text-soft">not said</span>}</td>
                <td className={`${td} w-full`}>
                  {l.action}
                  {l.detail && <span className="text-soft">: {l.detail}</span>}
                  {l.until && (
                    <span className="text-soft">
                      {' '}
                      · {count(l.times ?? 0)} times on that day, last at {moment(l.until)}
                    </span>
                  )}
                </td>
                <td className={`${td} max-w-50 truncate`}>{study(l.study)}</td>
                <td className={`${td} text-soft`}>{l.address}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {log.hasNextPage && (
        <Button onClick={() => log.fetchNextPage()} disabled={log.isFetchingNextPage}>
          Show earlier ones
        </Button>
      )}
    </Page>
  );
}
