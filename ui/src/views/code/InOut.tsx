import { useState } from 'react';
import { api, type Edit, type ReadFrame, take } from '../../api/client';
import { many } from '../../format';
import { CopyFrom } from '../../frame/CopyFrom';
import { EffectOf } from '../../frame/EffectOf';
import { Sheet } from '../../frame/Sheets';
import { useDesk } from '../../question';

type Read = { file: string; edit: (after: boolean) => Edit; what: string; notes: string[]; whole?: boolean };

/** Carries the frame, or the whole scheme, out as a file, and in from one. */
export default function InOut() {
  const { question, say } = useDesk();
  const [read, setRead] = useState<Read>();
  const refused = (e: unknown) => say({ text: `${(e as Error).message} Nothing was changed.`, bad: true });
  const readFrame = async (file: File) => {
    const f: ReadFrame = await take(
      api.POST('/api/v1/questions/{question}/frame/read', {
        params: { path: { question: question.id }, query: { name: file.name } },
        headers: { 'Content-Type': 'application/octet-stream' },
        body: '',
        bodySerializer: () => file, // as it is: the server tells what it holds
      }),
    );
    setRead({
      file: file.name,
      what: `${f.kind === 'codebook' ? 'A REFI-QDA codebook' : f.kind === 'table' ? 'A table' : 'A playbook'} with ${many(f.categories, 'category', 'categories')} and ${many(f.rules, 'rule')}.`,
      notes: f.notes,
      edit: (after) => ({ kind: 'frame', frame: f.frame, to: after ? 'on' : undefined }),
    });
  };
  const readPlaybook = async (file: File) => {
    let playbook: Edit['playbook'];
    try {
      playbook = JSON.parse(await file.text());
    } catch {
      throw new Error(`${file.name} is no playbook: it can’t be read as JSON.`);
    }
    setRead({
      file: file.name,
      what: 'A playbook: cleaning, lexicon and code frame take the place of what stands here.',
      notes: [],
      whole: true,
      edit: () => ({ kind: 'playbook', playbook }),
    });
  };
  const opener = (label: string, accept: string, open: (f: File) => Promise<void>) => (
    <label className="plain filelink">
      {label}
      <input
        type="file"
        accept={accept}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = '';
          if (file) open(file).catch(refused);
        }}
      />
    </label>
  );
  const base = `/api/v1/questions/${question.id}`;
  return (
    <div className="inoutv">
      <section>
        <h2>Out</h2>
        <dl className="files">
          <dt>
            <a className="plain" href={`${base}/playbook`} download>
              Playbook
            </a>
          </dt>
          <dd>Cleaning, lexicon and code frame in one file, to use again on the next wave or on the command line.</dd>
          <dt>
            <a className="plain" href={`${base}/frame.csv`} download>
              Code frame as CSV
            </a>
          </dt>
          <dd>One row a rule, with its category, net, code, key and note: to read in a spreadsheet and bring back.</dd>
          <dt>
            <a className="plain" href={`${base}/frame.qdc`} download>
              Codebook (QDC)
            </a>
          </dt>
          <dd>
            The open REFI-QDA exchange format: codes, nets, descriptions and colours. It has no place for rules, so they
            stay out of it.
          </dd>
        </dl>
      </section>
      <section>
        <h2>In</h2>
        <dl className="files">
          <dt>
            {opener('A code frame…', '.csv,.qdc,.json,.xml,text/csv,application/xml,application/json', readFrame)}
          </dt>
          <dd>
            From a CSV of this kind, a QDC codebook or the frame of a playbook: in the place of the frame there is, or
            after it.
          </dd>
          <dt>{opener('A whole playbook…', '.json,application/json', readPlaybook)}</dt>
          <dd>In the place of cleaning, lexicon and frame.</dd>
          <dt>
            <CopyFrom first="frame" />
          </dt>
          <dd>Cleaning, lexicon or frame of another question here.</dd>
        </dl>
        <p className="soft small">
          Each shows first what it would change and which rules would not fit: rules that name a list, a variable, a
          value or a category that is not here. They come in all the same and are marked, and catch nothing until
          mended.
        </p>
      </section>
      {read && <BringIn read={read} close={() => setRead(undefined)} />}
    </div>
  );
}

function BringIn({ read, close }: { read: Read; close: () => void }) {
  const { edit } = useDesk();
  const [after, setAfter] = useState(false);
  const change = read.edit(after);
  return (
    <Sheet title={`Bring in ${read.file}?`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          close();
          edit(change);
        }}
      >
        <p>{read.what}</p>
        {read.notes.length > 0 && (
          <ul className="plainlist soft">
            {read.notes.map((n) => (
              <li key={n}>{n}</li>
            ))}
          </ul>
        )}
        {!read.whole && (
          <fieldset className="plainset">
            <legend>Where it goes</legend>
            {[false, true].map((a) => (
              <p key={String(a)}>
                <label>
                  <input type="radio" name="where" checked={after === a} onChange={() => setAfter(a)} />{' '}
                  {a
                    ? 'after the frame there is'
                    : 'in the place of the frame there is: categories under the same names keep their decisions by hand'}
                </label>
              </p>
            ))}
          </fieldset>
        )}
        <EffectOf change={change} />
        <p className="row">
          <button type="submit" className="go">
            Bring it in
          </button>
          <button type="button" onClick={close}>
            Leave it
          </button>
        </p>
      </form>
    </Sheet>
  );
}
