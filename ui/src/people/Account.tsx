import { useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { api, take } from '../lib/api';
import { keys } from '../lib/queries';
import { takeSession, useKnownSession } from '../lib/session';
import { Button } from '../parts/Button';
import { Select } from '../parts/Select';
import { Labelled, TextField } from '../parts/Text';
import { Entries } from './Entries';
import { Page } from './Page';

/** One's own account: password, what lets one in, and a token for a program. */
export default function AccountPage() {
  const session = useKnownSession();
  return (
    <Page title="Account">
      {session?.password && <Password />}
      <NewToken />
      {/* What is fetched comes last: nothing is pushed away from under the mouse. */}
      <Entries everybody={false} />
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
      setSaid({ text: 'The password is changed. You are signed out everywhere else, and your tokens have ended.' });
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

function NewToken() {
  const client = useQueryClient();
  const [scope, setScope] = useState<'read' | 'write'>('read');
  const [made, setMade] = useState<string>();
  const [error, setError] = useState('');
  const after = () => client.invalidateQueries({ queryKey: keys.people });
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
  return (
    <section aria-label="A token for a program" className="grid gap-2">
      <h2>A token for a program</h2>
      <p className="text-soft">
        A program that has a token works in your name: the command line (as AFTERMATH_TOKEN) or whatever speaks to the
        API.
      </p>
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
