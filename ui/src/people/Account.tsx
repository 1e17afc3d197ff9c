import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { api, take } from '../lib/api';
import { moment } from '../lib/format';
import { keys } from '../lib/queries';
import { takeSession, useKnownSession } from '../lib/session';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Select } from '../parts/Select';
import { Empty, Labelled, Skeleton, TextField } from '../parts/Text';
import { Heads, Page, td } from './Page';

/** One's own account: password and tokens. */
export default function AccountPage() {
  const session = useKnownSession();
  return (
    <Page title="Account">
      {session?.password && <Password />}
      <Tokens />
    </Page>
  );
}

function Password() {
  const client = useQueryClient();
  const [said, setSaid] = useState<{ text: string; bad?: boolean }>();
  const go = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = e.currentTarget;
    const given = new FormData(form);
    try {
      const body = { before: String(given.get('before')), after: String(given.get('after')) };
      takeSession(client, await take(api.PUT('/api/v1/password', { body })));
      form.reset();
      setSaid({ text: 'The password is changed. You are signed out everywhere else.' });
    } catch (e) {
      setSaid({ text: (e as Error).message, bad: true });
    }
  };
  return (
    <section aria-label="Password">
      <h2>Password</h2>
      <form onSubmit={go} className="flex flex-wrap items-end gap-2.5 pt-2">
        <Labelled name="The one you have">
          <TextField name="before" type="password" required autoComplete="current-password" />
        </Labelled>
        <Labelled name="The new one, at least 12 characters">
          <TextField name="after" type="password" required minLength={12} autoComplete="new-password" />
        </Labelled>
        <Button type="submit">Change it</Button>
      </form>
      {said && (
        <p role="status" className={`pt-1.5 ${said.bad ? 'text-clay' : ''}`}>
          {said.text}
        </p>
      )}
    </section>
  );
}

const scopes = [
  { value: 'read' as const, words: 'read only' },
  { value: 'write' as const, words: 'read and change' },
];

function Tokens() {
  const client = useQueryClient();
  const all = useQuery({ queryKey: keys.tokens, queryFn: ({ signal }) => take(api.GET('/api/v1/tokens', { signal })) });
  const [scope, setScope] = useState<'read' | 'write'>('read');
  const [made, setMade] = useState<string>();
  const [error, setError] = useState('');
  const after = () => client.invalidateQueries({ queryKey: keys.tokens });
  const add = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = e.currentTarget;
    const given = new FormData(form);
    setError('');
    try {
      const body = { name: String(given.get('name')), scope, days: Number(given.get('days')) };
      setMade((await take(api.POST('/api/v1/tokens', { body }))).token);
      form.reset();
      await after();
    } catch (e) {
      setError((e as Error).message);
    }
  };
  const drop = async (token: number) => {
    await take(api.DELETE('/api/v1/tokens/{token}', { params: { path: { token } } })).catch((e) => setError(e.message));
    await after();
  };
  return (
    <section aria-label="Tokens" className="grid gap-2">
      <h2>Tokens</h2>
      <p className="text-soft">
        A program that has a token works in your name: the command line (as AFTERMATH_TOKEN) or whatever speaks to the
        API.
      </p>
      {all.error && <Failed error={all.error} again={() => all.refetch()} />}
      {all.isPending && <Skeleton lines={2} />}
      {all.data?.length === 0 && <Empty>There is no token yet.</Empty>}
      {!!all.data?.length && (
        <table className="w-full border-collapse">
          <Heads names={['Name', 'To', 'Ends', 'Last used', '']} />
          <tbody>
            {all.data.map((t) => (
              <tr key={t.id}>
                <td className={td}>{t.name}</td>
                <td className={td}>{scopes.find((s) => s.value === t.scope)?.words}</td>
                <td className={td}>{moment(t.ends)}</td>
                <td className={td}>{t.used ? moment(t.used) : <span className="text-soft">never</span>}</td>
                <td className={`${td} text-right`}>
                  <Button look="plain" onClick={() => drop(t.id)} aria-label={`Delete the token ${t.name}`}>
                    Delete
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <form onSubmit={add} className="flex flex-wrap items-end gap-2.5">
        <Labelled name="What it is for">
          <TextField name="name" required maxLength={100} />
        </Labelled>
        <Select label="What it may do" value={scope} options={scopes} change={setScope} />
        <Labelled name="Days that it lasts">
          <TextField name="days" type="number" min={1} max={366} defaultValue={90} required className="w-24" />
        </Labelled>
        <Button type="submit">Make a token</Button>
      </form>
      {made && (
        <p role="status" className="grid gap-1 rounded-sm bg-mosspale p-2.5">
          This is the only time it is shown. Copy it now:
          <TextField readOnly wide value={made} aria-label="The token" onFocus={(e) => e.target.select()} />
        </p>
      )}
      {error && (
        <p role="alert" className="text-clay">
          {error}
        </p>
      )}
    </section>
  );
}
