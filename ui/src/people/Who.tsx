import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { api, take } from '../lib/api';
import { takeSession, useKnownSession } from '../lib/session';
import { Menu } from '../parts/Menu';

/** Who is signed in, and what they can do about it. */
export function Who() {
  const session = useKnownSession();
  const client = useQueryClient();
  const navigate = useNavigate();
  if (!session?.on) return null;
  const out = async (everywhere: boolean) =>
    takeSession(client, await take(api.DELETE('/api/v1/session', { params: { query: { everywhere } } })));
  return (
    <Menu
      words={session.name ?? ''}
      label={`${session.name}: account, sign out`}
      actions={[
        { words: 'Account…', act: () => navigate('/account') },
        ...(session.admin
          ? [
              { words: 'People', act: () => navigate('/people') },
              { words: 'Log', act: () => navigate('/log') },
            ]
          : []),
        { words: 'Sign out', act: () => out(false), group: true },
        { words: 'Sign out everywhere', act: () => out(true) },
      ]}
    />
  );
}
