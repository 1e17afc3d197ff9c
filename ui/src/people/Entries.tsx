import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Entry, take } from '../lib/api';
import { moment } from '../lib/format';
import { keys } from '../lib/queries';
import { takeSession } from '../lib/session';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Confirm } from '../parts/Dialog';
import { Empty, Skeleton } from '../parts/Text';
import { Heads, td } from './Page';

/** The machine that a browser says it runs on. */
const machine = (agent: string) => /\(([^)]*)\)/.exec(agent)?.[1] ?? agent;

const scopes = { read: 'read only', write: 'read and change' };

const what = (e: Entry) =>
  e.kind === 'token' ? `Token “${e.name}”, ${scopes[e.scope ?? 'read']}` : `Browser (${machine(e.name) || 'unknown'})`;

/** All that lets one in, or everybody: sessions in browsers and tokens of programs. Each can be ended. */
export function Entries({ everybody }: { everybody: boolean }) {
  const client = useQueryClient();
  const all = useQuery({
    queryKey: keys.entries(everybody),
    queryFn: ({ signal }) =>
      take(everybody ? api.GET('/api/v1/entries/all', { signal }) : api.GET('/api/v1/entries', { signal })),
    refetchOnMount: 'always',
  });
  const [error, setError] = useState('');
  const [ending, setEnding] = useState<Entry>();
  const end = async (e: Entry) => {
    setError('');
    setEnding(undefined);
    try {
      await take(api.DELETE('/api/v1/entries/{kind}/{entry}', { params: { path: { kind: e.kind, entry: e.id } } }));
      if (e.this) takeSession(client, await take(api.GET('/api/v1/session')));
    } catch (e) {
      setError((e as Error).message);
    }
    await client.invalidateQueries({ queryKey: keys.people });
  };
  const heads = ['Session or token', ...(everybody ? ['Whose'] : []), 'Last used', 'From', 'Ends by itself', ''];
  return (
    <section aria-label={everybody ? 'What lets somebody in' : 'What lets you in'} className="grid gap-2">
      <h2>{everybody ? 'What lets somebody in' : 'What lets you in'}</h2>
      {all.error && <Failed error={all.error} again={() => all.refetch()} />}
      {all.isPending && <Skeleton lines={3} />}
      {all.data?.length === 0 && <Empty>Nobody is signed in, and there is no token.</Empty>}
      {!!all.data?.length && (
        <table className="w-full border-collapse" aria-label="Sessions and tokens">
          <Heads names={heads} />
          <tbody>
            {all.data.map((e) => (
              <tr key={`${e.kind} ${e.id}`}>
                <td className={td} title={e.kind === 'session' ? e.name : undefined}>
                  {what(e)}
                  {e.this && <span className="text-soft"> · this one</span>}
                </td>
                {everybody && <td className={td}>{e.who}</td>}
                <td className={`${td} whitespace-nowrap`}>
                  {e.used ? moment(e.used) : <span className="text-soft">never</span>}
                </td>
                <td className={td}>{e.from}</td>
                <td className={`${td} whitespace-nowrap`}>{moment(e.ends)}</td>
                <td className={`${td} text-right`}>
                  <Button
                    look="plain"
                    onClick={() => setEnding(e)}
                    aria-label={`End: ${what(e)}${everybody ? ` of ${e.who}` : ''}`}
                  >
                    End
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {error && (
        <p role="alert" className="text-clay">
          {error}
        </p>
      )}
      {ending && (
        <Confirm
          title={ending.kind === 'token' ? `End the token “${ending.name}”?` : 'End this session?'}
          go="End it"
          act={() => end(ending)}
          close={() => setEnding(undefined)}
        >
          {ending.kind === 'token'
            ? 'The program that has it comes in no more. It can’t be brought back; another one can be made.'
            : 'Whoever sits there is signed out. What they have typed stays in their window.'}
        </Confirm>
      )}
    </section>
  );
}
