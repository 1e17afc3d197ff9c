import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { HouseStyle } from '../drawing/HouseStyle';
import { useAddress } from '../lib/address';
import { api, type ReportInfo, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { keys } from '../lib/queries';
import { useReports } from '../lib/reports';
import { required } from '../lib/required';
import { under, when } from '../paper/items';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Dialog, Ends } from '../parts/Dialog';
import { Menu } from '../parts/Menu';
import { Empty, Labelled, Skeleton, TextField } from '../parts/Text';
import { Files } from './Files';
import { Parts } from './Parts';
import { Still } from './Still';

/** A report: what was found, in an order, live until it is frozen. */
export default function Report() {
  const { say } = useDesk();
  const { set, number } = useAddress();
  const { asked, all, reports, current, choose, begin, again, study } = useReports();
  const [naming, setNaming] = useState<'begin' | 'rename'>();
  const frozen = number('frozen', 0);
  if (asked.error && !asked.data) return <Failed error={asked.error} again={() => asked.refetch()} />;
  if (!asked.data) return <Skeleton lines={8} />;
  const open = (id: number) => {
    choose(id);
    set({ report: String(id), frozen: '' });
  };
  const tell = async (work: () => Promise<unknown>) => {
    try {
      await work();
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
    await again();
  };
  const away = (r: ReportInfo, restore: boolean) =>
    tell(() => {
      const params = { path: { study, report: r.id } };
      return take<unknown>(
        restore
          ? api.POST('/api/v1/studies/{study}/reports/{report}/restore', { params })
          : api.DELETE('/api/v1/studies/{study}/reports/{report}', { params }),
      );
    });
  const drop = async (r: ReportInfo) => {
    await away(r, false);
    say({ text: `${r.name} was deleted.`, action: { words: 'Bring it back', act: () => away(r, true) } });
  };
  const gone = all.filter((r) => r.gone);
  return (
    <div className="grid max-w-240 gap-3 pr-2 pb-6">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b pb-3">
        {current && (
          <>
            <Combobox
              label="Report"
              value={String(current.id)}
              options={reports.map((r) => ({ value: String(r.id), words: r.name }))}
              change={(id) => open(Number(id))}
            />
            <Menu
              words="This report ▾"
              actions={[
                { words: 'Rename…', act: () => setNaming('rename') },
                { words: 'New report…', act: () => setNaming('begin') },
                { words: 'Delete', act: () => drop(current), group: true },
                ...gone.map((r) => ({ words: `Bring back ${r.name}`, act: () => away(r, true) })),
              ]}
            />
          </>
        )}
        {!current && (
          <Button look="go" onClick={() => setNaming('begin')}>
            Begin a report
          </Button>
        )}
        {!current &&
          gone.map((r) => (
            <Button key={r.id} look="plain" onClick={() => away(r, true)}>
              bring back {r.name}
            </Button>
          ))}
      </div>
      {current ? (
        frozen ? (
          <FrozenPage key={frozen} report={current} frozen={frozen} />
        ) : (
          <Live key={current.id} report={current} />
        )
      ) : (
        <>
          <h1 className="font-serif text-2xl font-semibold">Report</h1>
          <Empty>
            No report yet. Charts, findings and quotes are put into one from where they stand: Keep this chart… in
            Chart, “into the report” under What differs, and quote beside every answer. The first of them begins it.
          </Empty>
        </>
      )}
      {naming && (
        <Naming
          title={naming === 'begin' ? 'A new report' : 'The name of this report'}
          go={naming === 'begin' ? 'Begin it' : 'Rename it'}
          name={naming === 'begin' ? '' : required(current).name}
          close={() => setNaming(undefined)}
          keep={(name) =>
            naming === 'begin'
              ? tell(async () => open((await begin(name)).id))
              : tell(() =>
                  take(
                    api.POST('/api/v1/studies/{study}/reports/{report}', {
                      params: { path: { study, report: required(current).id } },
                      body: { kind: 'name', revision: required(current).revision, name },
                    }),
                  ),
                )
          }
        />
      )}
    </div>
  );
}

/** A report with its figures as of now. */
function Live({ report }: { report: ReportInfo }) {
  const { study } = useReports();
  const asked = useQuery({
    queryKey: keys.report(study, report.id),
    queryFn: ({ signal }) =>
      take(
        api.GET('/api/v1/studies/{study}/reports/{report}', { params: { path: { study, report: report.id } }, signal }),
      ),
  });
  if (asked.error && !asked.data) return <Failed error={asked.error} again={() => asked.refetch()} />;
  if (!asked.data) return <Skeleton lines={8} />;
  const r = asked.data;
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-sm">
        <Files study={study} report={r.id} />
        <HouseStyle />
        <Freezing report={r.id} frozen={r.frozen ?? []} />
      </div>
      {asked.error && <Failed error={asked.error} again={() => asked.refetch()} />}
      <article className="grid gap-1 rounded-sm border border-line bg-sheet px-6 py-5" aria-busy={asked.isFetching}>
        <h1 className="font-serif text-2xl font-semibold [overflow-wrap:anywhere]">{r.name}</h1>
        <p className="text-sm text-soft">{under(r.page)}</p>
        <Parts report={r} />
      </article>
    </>
  );
}

type FrozenInfo = { id: number; name: string; at: string; by?: string; gone?: boolean };

/** Freezes the report under a name, and lists what was frozen. */
function Freezing({ report, frozen }: { report: number; frozen: FrozenInfo[] }) {
  const { say } = useDesk();
  const { set } = useAddress();
  const { study, again } = useReports();
  const [asking, setAsking] = useState(false);
  const there = frozen.filter((f) => !f.gone);
  const gone = frozen.filter((f) => f.gone);
  const freeze = async (name: string) => {
    try {
      await take(
        api.POST('/api/v1/studies/{study}/reports/{report}/frozen', {
          params: { path: { study, report } },
          body: { name },
        }),
      );
      say({ text: `Frozen as ${name}: it changes no more. The report goes on.` });
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
    await again();
  };
  const restore = async (id: number) => {
    try {
      await take(
        api.POST('/api/v1/studies/{study}/reports/{report}/frozen/{frozen}/restore', {
          params: { path: { study, report, frozen: id } },
        }),
      );
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
    await again();
  };
  return (
    <>
      <Button look="plain" onClick={() => setAsking(true)}>
        Freeze…
      </Button>
      {frozen.length > 0 && (
        <Menu
          words={`Frozen: ${there.length} ▾`}
          actions={[
            ...there.map((f) => ({
              words: `${f.name}, ${when(f.at)}`,
              act: () => set({ frozen: String(f.id), report: String(report) }),
            })),
            ...gone.map((f) => ({ words: `Bring back ${f.name}`, act: () => void restore(f.id) })),
          ]}
        />
      )}
      {asking && (
        <Naming
          title="Freeze what it says now"
          go="Freeze it"
          name={new Date().toISOString().slice(0, 10)}
          close={() => setAsking(false)}
          keep={freeze}
        />
      )}
    </>
  );
}

/** A report as it read when it was frozen. */
function FrozenPage({ report, frozen }: { report: ReportInfo; frozen: number }) {
  const { say } = useDesk();
  const { set } = useAddress();
  const { study, again } = useReports();
  const asked = useQuery({
    queryKey: keys.frozen(study, report.id, frozen),
    queryFn: ({ signal }) =>
      take(
        api.GET('/api/v1/studies/{study}/reports/{report}/frozen/{frozen}', {
          params: { path: { study, report: report.id, frozen } },
          signal,
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const back = () => set({ frozen: '' });
  if (asked.error)
    return (
      <>
        <Failed error={asked.error} again={() => asked.refetch()} />
        <p>
          <Button look="plain" onClick={back}>
            Show the report as it is now
          </Button>
        </p>
      </>
    );
  if (!asked.data) return <Skeleton lines={8} />;
  const d = asked.data;
  const params = { path: { study, report: report.id, frozen } };
  const drop = async () => {
    try {
      await take(api.DELETE('/api/v1/studies/{study}/reports/{report}/frozen/{frozen}', { params }));
      back();
      const restore = async () => {
        await take(api.POST('/api/v1/studies/{study}/reports/{report}/frozen/{frozen}/restore', { params }));
        await again();
      };
      say({ text: `${d.frozen} was deleted.`, action: { words: 'Bring it back', act: restore } });
    } catch (e) {
      say({ text: (e as Error).message, bad: true });
    }
    await again();
  };
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-sm">
        <Button look="plain" onClick={back}>
          ← as it is now
        </Button>
        <Files study={study} report={report.id} frozen={frozen} />
        <Button look="plain" onClick={drop}>
          Delete
        </Button>
      </div>
      <article className="grid gap-1 rounded-sm border border-line bg-sheet px-6 py-5">
        <h1 className="font-serif text-2xl font-semibold [overflow-wrap:anywhere]">{d.name}</h1>
        <p className="text-sm text-soft">{under(d)}</p>
        {d.sections.map((s) => (
          <section key={s.id} className="min-w-0">
            <Still section={s} style={d.style} />
          </section>
        ))}
      </article>
    </>
  );
}

type NamingProps = { title: string; go: string; name: string; close: () => void; keep: (name: string) => void };

function Naming({ title, go, name, close, keep }: NamingProps) {
  const [typed, setTyped] = useState(name);
  return (
    <Dialog title={title} close={close}>
      <form
        className="grid gap-2.5"
        onSubmit={(e) => {
          e.preventDefault();
          close();
          keep(typed.trim());
        }}
      >
        <Labelled name="Name">
          <TextField wide value={typed} maxLength={200} onChange={(e) => setTyped(e.target.value)} />
        </Labelled>
        <Ends go={go} ready={!!typed.trim()} close={close} />
      </form>
    </Dialog>
  );
}
