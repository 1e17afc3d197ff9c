import { useQuery, useQueryClient } from '@tanstack/react-query';
import { api, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { keys } from '../lib/queries';
import { type Style, usual } from './style';

/** How pictures look in all studies, and the way to set it. */
export function useStyle() {
  const client = useQueryClient();
  const { say } = useDesk();
  const asked = useQuery({
    queryKey: keys.style,
    queryFn: ({ signal }) => take(api.GET('/api/v1/house-style', { signal })),
  });
  const style = asked.data ?? usual;
  const put = async (to: Style) => {
    try {
      await take(api.PUT('/api/v1/house-style', { body: to }));
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
    await Promise.all([
      client.invalidateQueries({ queryKey: keys.style }),
      client.invalidateQueries({ queryKey: keys.ofReports }),
    ]);
  };
  /** Sets it, and offers the way back. */
  const set = async (to: Style) => {
    const before = style;
    await put(to);
    say({
      text: 'The house style was set: pictures of all studies look so.',
      action: { words: 'Undo', act: () => put(before) },
    });
  };
  return { style, set, asked };
}
