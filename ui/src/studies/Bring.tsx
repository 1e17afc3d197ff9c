import { useState } from 'react';
import { useNavigate } from 'react-router';
import { held, pasted } from '../lib/upload';
import { Button } from '../parts/Button';
import { Dialog, Ends } from '../parts/Dialog';
import { TextArea, TextField } from '../parts/Text';

/** The ways to bring in answers. */
export function Bring() {
  const [over, setOver] = useState(false);
  const navigate = useNavigate();
  const [other, setOther] = useState<'paste' | 'link'>();
  const bring = (file: File | undefined, link?: string) => {
    if (!file && !link) return;
    held.file = file;
    held.link = link;
    navigate('/load');
  };
  return (
    <section className="grid gap-3.5" aria-label="Bring in answers">
      <label
        data-part="drop"
        className={`grid cursor-pointer gap-1.5 rounded-(--radius) border-2 border-dashed border-moss p-5
          focus-within:outline-2 focus-within:outline-moss ${over ? 'bg-mosspale' : ''}`}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          bring(e.dataTransfer.files[0]);
        }}
      >
        <b>Bring in a file of answers</b>
        <span className="text-soft">
          Drop it here, or choose one: CSV or TSV, a workbook (XLSX, ODS), JSON, plain text, a saved web page, up to 2
          GiB and 2,000,000 rows. You see how it is read before anything is stored.
        </span>
        <input
          type="file"
          className="pt-1.5 file:mr-3 file:cursor-pointer file:rounded-(--radius) file:bg-moss file:px-3 file:py-1
            file:text-onmoss"
          onChange={(e) => bring(e.target.files?.[0])}
        />
      </label>
      <p className="flex items-baseline gap-2.5">
        <Button onClick={() => setOther('paste')}>Paste answers or a table</Button>
        <Button onClick={() => setOther('link')}>Follow a link</Button>
      </p>
      {other && <Other what={other} bring={bring} close={() => setOther(undefined)} />}
    </section>
  );
}

type OtherProps = { what: 'paste' | 'link'; bring: (file?: File, link?: string) => void; close: () => void };

/** Answers that are in no file: pasted, or behind a link. */
function Other({ what, bring, close }: OtherProps) {
  const [text, setText] = useState('');
  const paste = what === 'paste';
  return (
    <Dialog title={paste ? 'Paste answers or a table' : 'Follow a link'} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (text.trim()) bring(paste ? pasted(text) : undefined, paste ? undefined : text.trim());
        }}
      >
        <label className="grid gap-0.75 text-sm text-soft *:text-base *:text-ink" htmlFor="given">
          {paste
            ? 'An answer per line, answers separated by blank lines, or rows copied from a spreadsheet'
            : 'The address of a file or web page; the server fetches it, http and https only, up to 256 MiB'}
        </label>
        {paste ? (
          <TextArea id="given" rows={10} value={text} onChange={(e) => setText(e.target.value)} />
        ) : (
          <TextField id="given" wide value={text} placeholder="https://" onChange={(e) => setText(e.target.value)} />
        )}
        <Ends go="See how it is read" ready={!!text.trim()} close={close} />
      </form>
    </Dialog>
  );
}
