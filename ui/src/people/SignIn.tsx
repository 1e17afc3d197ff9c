import { useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, type Session, take } from '../lib/api';
import { takeSession } from '../lib/session';
import { Button } from '../parts/Button';
import { Labelled, TextField } from '../parts/Text';

/** Asks who somebody is. */
export function SignIn({ session, again }: { session: Session; again: boolean }) {
  const client = useQueryClient();
  const [query] = useSearchParams();
  const [error, setError] = useState(query.get('signin') ?? '');
  const [busy, setBusy] = useState(false);
  const name = useRef<HTMLInputElement>(null);
  useEffect(() => {
    // Whatever had the focus when the session ended, a field of the page or another dialog, gives it up, also if it takes it back once.
    name.current?.focus();
    const after = setTimeout(() => {
      if (!name.current?.form?.contains(document.activeElement)) name.current?.focus();
    }, 50);
    return () => clearTimeout(after);
  }, []);
  const go = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const given = new FormData(e.currentTarget);
    setBusy(true);
    setError('');
    try {
      const body = { name: String(given.get('name')).trim(), password: String(given.get('password')) };
      takeSession(client, await take(api.POST('/api/v1/session', { body })));
    } catch (e) {
      setError((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form onSubmit={go} className="grid max-w-90 gap-3.5" aria-label="Sign in">
      {again && (
        <p>You were signed out: after a while without work, or elsewhere. What you see and have typed is still here.</p>
      )}
      <Labelled name="Name">
        <TextField ref={name} name="name" wide required autoFocus autoComplete="username" maxLength={200} />
      </Labelled>
      <Labelled name="Password">
        <TextField name="password" type="password" wide required autoComplete="current-password" maxLength={1000} />
      </Labelled>
      {error && (
        <p role="alert" className="text-clay">
          {error}
        </p>
      )}
      <p className="flex items-baseline gap-2.5">
        <Button look="go" type="submit" disabled={busy}>
          Sign in
        </Button>
        {session.provider && (
          <Button onClick={() => location.assign('/auth/start')}>Sign in by {session.provider}</Button>
        )}
      </p>
    </form>
  );
}

/** The page of sign-in, before anything else. */
export function SignInPage({ session }: { session: Session }) {
  return (
    <main id="main" className="mx-auto grid max-w-240 gap-5 px-6 py-8.5">
      <header>
        <p className="font-serif text-xl leading-none font-semibold text-moss italic">Aftermath</p>
        <h1 className="mt-3.5">Sign in</h1>
      </header>
      <SignIn session={session} again={false} />
    </main>
  );
}
