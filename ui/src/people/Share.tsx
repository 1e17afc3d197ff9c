import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Sharing, type Study, take } from '../lib/api';
import { keys } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Dialog } from '../parts/Dialog';
import { Select } from '../parts/Select';
import { Empty, Skeleton } from '../parts/Text';

type Role = 'reader' | 'analyst' | 'owner';

const roles = [
  { value: 'reader' as const, words: 'Reader: sees it, changes nothing' },
  { value: 'analyst' as const, words: 'Analyst: works on it' },
  { value: 'owner' as const, words: 'Owner: shares and deletes it too' },
];

/** Who may do what with a study. */
export function Share({ study, close }: { study: Study; close: () => void }) {
  const client = useQueryClient();
  const path = { study: study.id };
  const members = useQuery({
    queryKey: keys.members(study.id),
    queryFn: ({ signal }) => take(api.GET('/api/v1/studies/{study}/members', { params: { path }, signal })),
  });
  const people = useQuery({
    queryKey: keys.people,
    queryFn: ({ signal }) => take(api.GET('/api/v1/people', { signal })),
  });
  const [error, setError] = useState('');
  const [who, setWho] = useState('');
  const [role, setRole] = useState<Role>('analyst');
  const doing = async (work: Promise<unknown>) => {
    setError('');
    await work.catch((e) => setError(e.message));
    await client.invalidateQueries({ queryKey: keys.members(study.id) });
  };
  const put = (user: number, role: Role, exports: boolean, personal = false) =>
    doing(
      take(
        api.PUT('/api/v1/studies/{study}/members/{user}', {
          params: { path: { ...path, user } },
          body: { role, exports, personal },
        }),
      ),
    );
  const drop = (m: Sharing) =>
    doing(take(api.DELETE('/api/v1/studies/{study}/members/{user}', { params: { path: { ...path, user: m.user } } })));
  const others = (people.data ?? []).filter((p) => !members.data?.some((m) => m.user === p.id));
  return (
    <Dialog title={`Share ${study.name}`} close={close} wide>
      {(members.error || people.error) && <Failed error={required(members.error ?? people.error)} />}
      {members.isPending && <Skeleton lines={3} />}
      {members.data?.length === 0 && <Empty>Nobody but admins sees this study yet.</Empty>}
      <ul aria-label="Who may do what">
        {members.data?.map((m) => (
          <li key={m.user} className="flex flex-wrap items-center justify-between gap-3 border-b border-hair py-1.5">
            <span className="min-w-40">{m.name}</span>
            <span className="flex flex-wrap items-center gap-3">
              {m.role === 'reader' && (
                <label>
                  <Checkbox checked={m.exports} change={(exports) => put(m.user, 'reader', exports)} /> may take files
                  out of it
                </label>
              )}
              {m.role === 'analyst' && (
                <label>
                  <Checkbox checked={m.personal} change={(personal) => put(m.user, 'analyst', m.exports, personal)} />{' '}
                  may see personal data that is masked
                </label>
              )}
              <Select
                label={`What ${m.name} may do`}
                value={m.role as Role}
                options={roles}
                change={(role) => put(m.user, role, m.exports, m.personal)}
              />
              <Button look="plain" onClick={() => drop(m)} aria-label={`Take away from ${m.name}`}>
                Take away
              </Button>
            </span>
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <p className="flex flex-wrap items-center gap-2.5 pt-3">
          <Select
            label="Somebody else"
            value={who || String(itemAt(others, 0).id)}
            options={others.map((p) => ({ value: String(p.id), words: p.name }))}
            change={setWho}
          />
          <Select label="What they may do" value={role} options={roles} change={setRole} />
          <Button
            onClick={() => {
              put(Number(who || itemAt(others, 0).id), role, true);
              setWho('');
            }}
          >
            Share
          </Button>
        </p>
      )}
      {error && (
        <p role="alert" className="pt-2 text-clay">
          {error}
        </p>
      )}
      <p className="flex justify-end pt-4">
        <Button look="go" onClick={close}>
          Done
        </Button>
      </p>
    </Dialog>
  );
}
