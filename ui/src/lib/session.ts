import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { api, type Session, take } from './api';
import { signedInAs } from './maker';
import { keys } from './queries';

/** Who is signed in, and whether that is asked for. */
export function useSession() {
  const client = useQueryClient();
  const { data, isPending } = useQuery({
    queryKey: keys.session,
    queryFn: ({ signal }) => take(api.GET('/api/v1/session', { signal })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  useEffect(() => {
    // The server says of any request that nobody is signed in any more.
    const middleware = {
      onResponse: ({ response, schemaPath }: { response: Response; schemaPath: string }) => {
        if (response.status === 401 && schemaPath !== '/api/v1/session' && schemaPath !== '/api/v1/password')
          client.invalidateQueries({ queryKey: keys.session });
      },
    };
    api.use(middleware);
    return () => api.eject(middleware);
  }, [client]);
  useEffect(() => signedInAs(data?.name), [data?.name]);
  return { session: data, isPending };
}

/** The session as it is known, where it is asked for elsewhere. */
export const useKnownSession = () => useQuery<Session>({ queryKey: keys.session, enabled: false }).data;

let last = 0;

/** Takes over a session that has begun or ended. What was asked for in another's name is forgotten. */
export function takeSession(client: QueryClient, s: Session) {
  if (s.name && (s.id ?? 0) !== last) client.removeQueries({ predicate: (q) => q.queryKey[0] !== keys.session[0] });
  if (s.name) last = s.id ?? 0;
  client.setQueryData(keys.session, s);
  if (s.name) client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== keys.session[0] });
}
