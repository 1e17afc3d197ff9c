import { useEffect, useRef, useState } from 'react';
import { useDesk } from '../lib/edits';
import { Button } from '../parts/Button';
import { useRoving } from '../parts/roving';
import { download } from '../parts/save';

type Props = { study: number; report: number; frozen?: number };

const kinds = { html: 'HTML', pptx: 'PowerPoint', docx: 'Word', markdown: 'Markdown' } as const;
type Kind = keyof typeof kinds;

/** A report as files, and printed: as PDF, where the browser's printer is a file. */
export function Files({ study, report, frozen }: Props) {
  const stops = useRoving<HTMLSpanElement>({ across: true });
  const link = (more: Record<string, string>) =>
    `/api/v1/studies/${study}/reports/${report}/file?${new URLSearchParams({ ...more, ...(frozen ? { frozen: String(frozen) } : {}) })}`;
  const { kind, save, cancel } = useSaving();
  const print = () => {
    const page = window.open(link({ format: 'html', print: 'true' }), '_blank');
    page?.addEventListener('load', () => page.print());
  };
  return (
    <span {...stops} className="flex flex-wrap gap-x-3" role="group" aria-label="Download">
      <span className="text-soft">Download:</span>
      {(Object.keys(kinds) as Kind[]).map((format) => (
        <a
          key={format}
          data-stop=""
          className="underline"
          href={link({ format })}
          download
          onClick={(e) => {
            e.preventDefault();
            save(format, link({ format }));
          }}
        >
          {kinds[format]}
        </a>
      ))}
      <Button look="plain" data-stop="" onClick={print}>
        Print or PDF…
      </Button>
      <span role="status" className="text-soft">
        {kind && <Writing key={kind} kind={kind} cancel={cancel} />}
      </span>
    </span>
  );
}

/** A file that takes its seconds to be written: one at a time, which can be cancelled. */
function useSaving() {
  const { say } = useDesk();
  const [kind, setKind] = useState<Kind>();
  const stop = useRef<AbortController>(undefined);
  useEffect(() => () => stop.current?.abort(), []);
  const save = async (format: Kind, address: string) => {
    stop.current?.abort();
    const mine = new AbortController();
    stop.current = mine;
    setKind(format);
    try {
      const reply = await fetch(address, { signal: mine.signal });
      if (!reply.ok) throw new Error(((await reply.json()) as { detail?: string }).detail ?? reply.statusText);
      const name = /filename="([^"]+)"/.exec(reply.headers.get('Content-Disposition') ?? '')?.[1];
      download(await reply.blob(), name ?? `report.${format}`);
    } catch (e) {
      if (!mine.signal.aborted)
        say({ text: `The ${kinds[format]} file could not be written: ${(e as Error).message}`, bad: true });
    } finally {
      if (stop.current === mine) setKind(undefined);
    }
  };
  return { kind, save, cancel: () => stop.current?.abort() };
}

/** That a file is being written, and for how long. */
function Writing({ kind, cancel }: { kind: Kind; cancel: () => void }) {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const begun = Date.now();
    const tick = setInterval(() => setSeconds(Math.floor((Date.now() - begun) / 1000)), 500);
    return () => clearInterval(tick);
  }, []);
  return (
    <>
      Writing {kinds[kind]}…{seconds > 0 && <span aria-hidden> {seconds} s</span>}{' '}
      <Button look="plain" onClick={cancel}>
        cancel
      </Button>
    </>
  );
}
