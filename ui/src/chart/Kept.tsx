import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link as To } from 'react-router';
import { api, type Design, type KeptChart, take } from '../lib/api';
import { chartAddress, saysOf } from '../lib/charts';
import { say } from '../lib/conditions';
import { useDesk } from '../lib/edits';
import { moment } from '../lib/format';
import { keys, useAsk, useFrame } from '../lib/queries';
import { useReports } from '../lib/reports';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { Empty, Labelled, Skeleton, TextArea, TextField } from '../parts/Text';
import { Thumbnail } from './Thumbnail';

/** Asks the list of kept charts anew. */
function useKeptAgain() {
  const client = useQueryClient();
  const { question } = useDesk();
  return () => client.invalidateQueries({ queryKey: keys.asked(question.id, 'charts', {}).slice(0, 3) });
}

/** The charts that were kept under a name: each is drawn anew when it is opened, and says when its figures changed since. */
export default function Kept() {
  const { question, say: notify } = useDesk();
  const frame = useFrame('');
  const kept = useAsk('charts', {});
  const again = useKeptAgain();
  const { put } = useReports();
  const [change, setChange] = useState<KeptChart>();
  if (kept.error && !kept.data) return <Failed error={kept.error} again={() => kept.refetch()} />;
  if (!kept.data) return <Skeleton lines={5} />;
  const there = kept.data.filter((k) => !k.gone);
  const gone = kept.data.filter((k) => k.gone);
  const call = async (k: KeptChart, restore: boolean) => {
    const params = { path: { question: question.id, chart: k.id } };
    try {
      await take(
        restore
          ? api.POST('/api/v1/questions/{question}/charts/{chart}/restore', { params })
          : api.DELETE('/api/v1/questions/{question}/charts/{chart}', { params }),
      );
    } catch (e) {
      notify({ text: (e as Error).message, bad: true });
    }
    await again();
  };
  const drop = async (k: KeptChart) => {
    await call(k, false);
    notify({ text: `${k.name} was deleted.`, action: { words: 'Bring it back', act: () => call(k, true) } });
  };
  const intoReport = (k: KeptChart) =>
    put(
      { kind: 'chart', question: question.id, title: k.name, note: k.note, drawn: k.drawn },
      `Put ${k.name} into the report`,
    );
  const renew = async (k: KeptChart, to: { name: string; note?: string }) => {
    try {
      await take(
        api.PUT('/api/v1/questions/{question}/charts/{chart}', {
          params: { path: { question: question.id, chart: k.id } },
          body: to,
        }),
      );
    } catch (e) {
      notify({ text: (e as Error).message, bad: true });
    }
    await again();
  };
  const frameLines = frame.data?.categories ?? [];
  return (
    <div className="max-w-240 pr-2 pb-4" aria-busy={kept.isPlaceholderData}>
      {there.length === 0 && (
        <Empty>
          No chart is kept yet. Under By segment, Keep this chart… gives the figure a name, and lists it here.
        </Empty>
      )}
      <ul aria-label="Kept charts">
        {there.map((k) => (
          <li key={k.id} className="flex gap-4 border-t border-hair py-2.5 first:border-t-0" data-part="kept">
            <Thumbnail drawn={k.drawn} />
            <div className="grid min-w-0 flex-1 content-start gap-0.5">
              <p>
                <To
                  className="font-serif text-lg font-semibold underline decoration-edge underline-offset-3 hover:decoration-moss"
                  to={chartAddress(question.id, k.drawn, k.name, k.note)}
                >
                  {k.name}
                </To>
                {k.changed && <b className="pl-3 text-sm font-semibold text-clay">figures changed since</b>}
                {k.problem && <span className="pl-3 text-sm text-clay">can’t be drawn any more: {k.problem}</span>}
              </p>
              {k.note && <p className="max-w-160 font-serif whitespace-pre-line">{k.note}</p>}
              <p className="text-sm text-soft">
                {saysOf(k.drawn)} ·{' '}
                {k.drawn.focus?.length ? k.drawn.focus.map((c) => say(c, frameLines)).join(' · ') : 'all answers'} ·
                kept {moment(k.at)}
                {k.by && ` by ${k.by}`}
              </p>
              <p className="flex flex-wrap gap-x-3 text-sm">
                <Button look="plain" onClick={() => setChange(k)}>
                  rename or note…
                </Button>
                {!k.problem && (
                  <Button look="plain" onClick={() => intoReport(k)}>
                    into the report
                  </Button>
                )}
                {k.changed && (
                  <Button look="plain" onClick={() => renew(k, { name: k.name, note: k.note })}>
                    I have seen the change
                  </Button>
                )}
                <Button look="plain" aria-label={`Delete ${k.name}`} onClick={() => drop(k)}>
                  delete
                </Button>
              </p>
            </div>
          </li>
        ))}
      </ul>
      {gone.length > 0 && (
        <p className="flex flex-wrap gap-x-3 border-t pt-2 text-sm text-soft">
          Deleted:
          {gone.map((k) => (
            <Button key={k.id} look="plain" onClick={() => call(k, true)}>
              bring back {k.name}
            </Button>
          ))}
        </p>
      )}
      {change && (
        <Naming
          title="This chart"
          go="Keep it so"
          name={change.name}
          note={change.note ?? ''}
          close={() => setChange(undefined)}
          keep={(name, note) => renew(change, { name, note })}
        />
      )}
    </div>
  );
}

type KeepProps = { drawn: Design; name: string; note?: string; close: () => void };

/** Keeps what is on the screen under a name. */
export function KeepChart({ drawn, name, note = '', close }: KeepProps) {
  const { question, say: notify } = useDesk();
  const again = useKeptAgain();
  const keep = async (name: string, note: string) => {
    try {
      await take(
        api.POST('/api/v1/questions/{question}/charts', {
          params: { path: { question: question.id } },
          body: { name, note, drawn },
        }),
      );
      notify({ text: `Kept as ${name}; it is listed under Kept.` });
    } catch (e) {
      notify({ text: (e as Error).message, bad: true });
    }
    await again();
  };
  return <Naming title="Keep this chart" go="Keep it" name={name} note={note} close={close} keep={keep} />;
}

type NamingProps = {
  title: string;
  go: string;
  name: string;
  note: string;
  close: () => void;
  keep: (name: string, note: string) => void;
};

function Naming({ title, go, name, note, close, keep }: NamingProps) {
  const [typed, setTyped] = useState(name);
  const [told, setTold] = useState(note);
  return (
    <Dialog title={title} close={close}>
      <form
        className="grid gap-2.5"
        onSubmit={(e) => {
          e.preventDefault();
          close();
          keep(typed.trim(), told.trim());
        }}
      >
        <Labelled name="Name">
          <TextField wide value={typed} maxLength={200} onChange={(e) => setTyped(e.target.value)} />
        </Labelled>
        <Labelled name="Note">
          <TextArea rows={3} value={told} maxLength={5000} onChange={(e) => setTold(e.target.value)} />
        </Labelled>
        <Ends go={go} ready={!!typed.trim()} close={close} />
      </form>
    </Dialog>
  );
}
