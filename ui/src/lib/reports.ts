import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { useAddress } from './address';
import { api, type Block, type BlockOf, type ReportInfo, take } from './api';
import { useDesk } from './edits';
import { followed } from './followed';
import { askReportsAgain, keys } from './queries';
import { viewAddress } from './views';

/** What is put into a report, before it has an id there. */
export type NewBlock = { [K in Block['kind']]: Omit<BlockOf<K>, 'id'> }[Block['kind']];

/** An id for a part of a report. */
export const newId = () => crypto.getRandomValues(new Uint32Array(2)).join('-');

/** The report that is being written, by study: the same in all views of this window. */
const writing = followed<Record<number, number>>({});

/** The reports of the study, the one that is being written, and the way to put something into it. */
export function useReports() {
  const { question, say } = useDesk();
  const { get, focusText } = useAddress();
  const client = useQueryClient();
  const navigate = useNavigate();
  const study = question.study.id;
  const last = writing.use()[study];
  const choose = (id: number) => writing.set({ ...writing.get(), [study]: id });
  const asked = useQuery({
    queryKey: keys.reports(study),
    queryFn: ({ signal }) => take(api.GET('/api/v1/studies/{study}/reports', { params: { path: { study } }, signal })),
  });
  const all = asked.data ?? [];
  const reports = all.filter((r) => !r.gone);
  const current =
    reports.find((r) => r.id === Number(get('report'))) ?? reports.find((r) => r.id === last) ?? reports[0];
  const again = () => askReportsAgain(client, study);

  /** Begins a report; it is the one being written from now on. */
  const begin = async (name: string, blocks: Block[] = []) => {
    const made = await take(
      api.POST('/api/v1/studies/{study}/reports', { params: { path: { study } }, body: { name, blocks } }),
    );
    choose(made.id);
    await again();
    return made;
  };

  /** Puts something at the end of the report that is being written; the first one is begun with it. */
  const put = async (what: NewBlock, summary: string) => {
    const block = { ...what, id: newId() } as Block;
    try {
      let into: ReportInfo;
      if (current)
        into = await take(
          api.POST('/api/v1/studies/{study}/reports/{report}', {
            params: { path: { study, report: current.id } },
            body: { kind: 'add', revision: current.revision, blocks: [block], summary },
          }),
        );
      else into = await begin(`${question.study.name}: report`, [block]);
      await again();
      const show = () => navigate(viewAddress(question.id, 'report', focusText, { report: String(into.id) }));
      say({ text: `${summary}: ${into.name}.`, action: { words: 'Show the report', act: show } });
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
  };
  return { study, asked, all, reports, current, choose, begin, put, again };
}
