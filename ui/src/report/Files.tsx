import { Button } from '../parts/Button';
import { useRoving } from '../parts/roving';

type Props = { study: number; report: number; frozen?: number };

/** A report as files, and printed: as PDF, where the browser's printer is a file. */
export function Files({ study, report, frozen }: Props) {
  const stops = useRoving<HTMLSpanElement>({ across: true });
  const link = (more: Record<string, string>) =>
    `/api/v1/studies/${study}/reports/${report}/file?${new URLSearchParams({ ...more, ...(frozen ? { frozen: String(frozen) } : {}) })}`;
  const print = () => {
    const page = window.open(link({ format: 'html', print: 'true' }), '_blank');
    page?.addEventListener('load', () => page.print());
  };
  return (
    <span {...stops} className="flex flex-wrap gap-x-3" role="group" aria-label="Download">
      <span className="text-soft">Download:</span>
      {(
        [
          ['HTML', 'html'],
          ['PowerPoint', 'pptx'],
          ['Word', 'docx'],
          ['Markdown', 'markdown'],
        ] as const
      ).map(([words, format]) => (
        <a key={format} data-stop="" className="underline" href={link({ format })} download>
          {words}
        </a>
      ))}
      <Button look="plain" data-stop="" onClick={print}>
        Print or PDF…
      </Button>
    </span>
  );
}
