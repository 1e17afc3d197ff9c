import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { type Account, api, take } from '../lib/api';
import { dated } from '../lib/format';
import { keys } from '../lib/queries';
import { required } from '../lib/required';
import { useKnownSession } from '../lib/session';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Dialog, Ends } from '../parts/Dialog';
import { Menu } from '../parts/Menu';
import { Empty, Labelled, Skeleton, TextField } from '../parts/Text';
import { Entries } from './Entries';
import { Heads, Page, td } from './Page';

/** All accounts, for an admin. */
export default function People() {
  const session = useKnownSession();
  const client = useQueryClient();
  const all = useQuery({ queryKey: keys.users, queryFn: ({ signal }) => take(api.GET('/api/v1/users', { signal })) });
  const [error, setError] = useState('');
  const [over, setOver] = useState<Account>();
  const change = async (
    u: Account,
    body: { closed?: boolean; admin?: boolean; begins?: boolean; password?: string },
  ) => {
    setError('');
    try {
      await take(api.PUT('/api/v1/users/{user}', { params: { path: { user: u.id } }, body }));
      setOver(undefined);
    } catch (e) {
      setError((e as Error).message);
    }
    await client.invalidateQueries({ queryKey: keys.people });
  };
  return (
    <Page title="People">
      {!session?.on && (
        <p>
          Anybody who reaches this server can work here. With the first account, an admin’s, it asks everybody to sign
          in; the studies that are here are the admin’s to share.
        </p>
      )}
      {all.error && <Failed error={all.error} again={() => all.refetch()} />}
      {all.isPending && <Skeleton lines={3} />}
      {all.data?.length === 0 && <Empty>There is no account yet.</Empty>}
      {!!all.data?.length && (
        <table className="w-full border-collapse" aria-label="Accounts">
          <Heads names={['Name', 'Signs in by', 'May', 'Since', '']} />
          <tbody>
            {all.data.map((u) => (
              <tr key={u.id} className={u.closed ? 'text-soft' : ''}>
                <td className={td}>{u.name}</td>
                <td className={td}>{[u.password && 'password', u.email].filter(Boolean).join(', ')}</td>
                <td className={td}>
                  {u.closed
                    ? `closed on ${dated(u.closed.slice(0, 10))}`
                    : u.admin
                      ? 'do everything'
                      : u.begins
                        ? 'do what is shared, and begin studies'
                        : 'do what is shared'}
                </td>
                <td className={td}>{dated(u.created.slice(0, 10))}</td>
                <td className={`${td} text-right`}>
                  {u.id !== session?.id && (
                    <Menu
                      words="Change"
                      label={`Change the account of ${u.name}`}
                      actions={[
                        { words: 'Set a password…', act: () => setOver(u) },
                        {
                          words: u.admin ? 'Admin no more' : 'Make an admin',
                          act: () => change(u, { admin: !u.admin }),
                        },
                        ...(u.admin
                          ? []
                          : [
                              {
                                words: u.begins ? 'Begin no studies any more' : 'Let begin studies',
                                act: () => change(u, { begins: !u.begins }),
                              },
                            ]),
                        {
                          words: u.closed ? 'Open the account again' : 'Close the account',
                          act: () => change(u, { closed: !u.closed }),
                          group: true,
                        },
                      ]}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {error && !over && (
        <p role="alert" className="text-clay">
          {error}
        </p>
      )}
      <Add first={!session?.on} />
      {session?.on && <Entries everybody />}
      {over && (
        <Dialog title={`A password for ${over.name}`} close={() => setOver(undefined)}>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              change(over, { password: String(new FormData(e.currentTarget).get('password')) });
            }}
          >
            <Labelled name="At least 12 characters; they are signed out everywhere, and their tokens end">
              <TextField
                name="password"
                type="password"
                wide
                autoFocus
                required
                minLength={12}
                autoComplete="new-password"
              />
            </Labelled>
            {error && (
              <p role="alert" className="pt-1.5 text-clay">
                {error}
              </p>
            )}
            <Ends go="Set it" ready close={() => setOver(undefined)} />
          </form>
        </Dialog>
      )}
    </Page>
  );
}

function Add({ first }: { first: boolean }) {
  const client = useQueryClient();
  const [admin, setAdmin] = useState(first);
  const [begins, setBegins] = useState(false);
  const [said, setSaid] = useState<{ text: string; bad?: boolean }>();
  const go = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = e.currentTarget;
    const given = new FormData(form);
    try {
      const text = (of: string) => String(given.get(of)).trim() || undefined;
      const body = { name: required(text('name')), email: text('email'), password: text('password'), admin, begins };
      const made = await take(api.POST('/api/v1/users', { body }));
      if (first) return location.reload(); // from now on it is asked who is there
      form.reset();
      setAdmin(false);
      setBegins(false);
      setSaid({ text: `Added ${made.name}` });
      await client.invalidateQueries({ queryKey: keys.people });
    } catch (e) {
      setSaid({ text: (e as Error).message, bad: true });
    }
  };
  return (
    <section aria-label="Add an account" className="grid gap-2">
      <h2>Add an account</h2>
      <form onSubmit={go} className="grid gap-2.5">
        <div className="flex flex-wrap items-end gap-2.5">
          <Labelled name="Name">
            <TextField name="name" required maxLength={100} autoComplete="off" />
          </Labelled>
          <Labelled name="Password, at least 12 characters">
            <TextField name="password" type="password" minLength={12} autoComplete="new-password" />
          </Labelled>
          <Labelled name="Or the e-mail by which single sign-on knows them">
            <TextField name="email" type="email" maxLength={200} className="w-75" />
          </Labelled>
        </div>
        <div className="flex flex-wrap items-center gap-4">
          <label>
            <Checkbox checked={admin} change={setAdmin} disabled={first} /> Admin: adds accounts, reads the log, sees
            every study
          </label>
          <label>
            <Checkbox checked={begins || admin} change={setBegins} disabled={admin} /> Begins studies of their own
          </label>
          <Button type="submit" look="go">
            Add
          </Button>
        </div>
      </form>
      {said && (
        <p role="status" className={said.bad ? 'text-clay' : ''}>
          {said.text}
        </p>
      )}
    </section>
  );
}
