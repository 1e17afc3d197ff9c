import { useState } from 'react';
import { api, type Edit, type ReadFrame, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { many } from '../lib/format';
import { useFrame } from '../lib/queries';
import { required } from '../lib/required';
import { Dialog, Ends } from '../parts/Dialog';
import { FileLink } from '../parts/FileLink';
import { Radios } from '../parts/Radios';
import { optionsOf } from '../parts/Select';
import { CopyFrom } from '../rule/CopyFrom';
import { EffectOf, useEffectOf } from '../rule/EffectOf';

/** Carries the frame, or the whole scheme, out as a file, and in from one. */
export default function InOut() {
  const { question, say } = useDesk();
  const frame = useFrame('');
  const [read, setRead] = useState<{ name: string; file: ReadFrame }>();
  const open = async (file: File) => {
    try {
      setRead({
        name: file.name,
        file: await take(
          api.POST('/api/v1/questions/{question}/frame/read', {
            params: { path: { question: question.id }, query: { name: file.name } },
            headers: { 'Content-Type': 'application/octet-stream' },
            body: '',
            bodySerializer: () => file, // as it is: the server tells what it holds
          }),
        ),
      });
    } catch (e) {
      say({ text: `${file.name}: ${(e as Error).message}. Nothing was changed.`, bad: true });
    }
  };
  const base = `/api/v1/questions/${question.id}`;
  return (
    <div className="pr-2.5 [&_section]:pt-2.5 [&_section]:pb-3.5">
      <section>
        <h2>Export</h2>
        <dl className="grid grid-cols-[12rem_minmax(0,1fr)] gap-x-4 gap-y-2 pt-1 pb-2.5">
          <dt>
            <a
              className="px-0.5 text-ink underline decoration-edge underline-offset-3 hover:decoration-moss"
              href={`${base}/playbook`}
              download
            >
              Playbook
            </a>
          </dt>
          <dd>Cleaning, lexicon and code frame in one file, to use again on the next wave or on the command line.</dd>
          <dt>
            <a
              className="px-0.5 text-ink underline decoration-edge underline-offset-3 hover:decoration-moss"
              href={`${base}/frame/file?format=csv`}
              download
            >
              Code frame as CSV
            </a>
          </dt>
          <dd>
            One row a category, its rules one per line in a cell, its fields a column each: to read in a spreadsheet and
            bring back.
          </dd>
          <dt>
            {frame.data?.categories.length === 0 ? (
              <span className="text-soft">Codebook (QDC): no category yet</span>
            ) : (
              <a
                className="px-0.5 text-ink underline decoration-edge underline-offset-3 hover:decoration-moss"
                href={`${base}/frame/file?format=qdc`}
                download
              >
                Codebook (QDC)
              </a>
            )}
          </dt>
          <dd>
            The open REFI-QDA exchange format: codes, nets, descriptions and colours. It has no place for rules and
            fields, so they stay out of it.
          </dd>
        </dl>
      </section>
      <section>
        <h2>Import</h2>
        <dl className="grid grid-cols-[12rem_minmax(0,1fr)] gap-x-4 gap-y-2 pt-1 pb-2.5">
          <dt>
            <FileLink
              words="A file…"
              accept=".csv,.qdc,.json,.xml,text/csv,application/xml,application/json"
              choose={open}
            />
          </dt>
          <dd>
            A playbook, whole or its code frame only; a code frame as CSV; a QDC codebook. It takes the place of the
            frame there is, or comes after it.
          </dd>
          <dt>
            <CopyFrom first="frame" />
          </dt>
          <dd>Cleaning, lexicon or frame of another question here.</dd>
        </dl>
        <p className="text-sm text-soft">
          Each shows first what it would change and which rules would not fit: rules that name a list, a variable, a
          value or a category that is not here. They come in all the same and are marked, and catch nothing until they
          are fixed.
        </p>
      </section>
      {read && <BringIn {...read} close={() => setRead(undefined)} />}
    </div>
  );
}

const kinds = { codebook: 'A REFI-QDA codebook', table: 'A table', playbook: 'A playbook' };
const places = {
  whole: 'all of it: cleaning, lexicon and frame in the place of what stands here',
  replace: 'its frame in the place of the one there is',
  after: 'its frame after the one there is',
};
type Place = keyof typeof places;

/** Asks where what was read shall go, its effect shown first. */
function BringIn({ name, file, close }: { name: string; file: ReadFrame; close: () => void }) {
  const { edit } = useDesk();
  const [place, setPlace] = useState<Place>(file.playbook ? 'whole' : 'replace');
  const change: Edit =
    place === 'whole'
      ? { kind: 'playbook', playbook: required(file.playbook) }
      : { kind: 'frame', frame: file.frame, fields: file.fields, after: place === 'after' };
  const refused = useEffectOf(change, true).error;
  return (
    <Dialog title={`Bring in ${name}?`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          close();
          edit(change);
        }}
      >
        <p>
          {kinds[file.kind]} with {many(file.categories, 'category', 'categories')} and {many(file.rules, 'rule')}.
        </p>
        {file.notes.length > 0 && (
          <ul className="text-soft">
            {file.notes.map((n) => (
              <li key={n}>{n}</li>
            ))}
          </ul>
        )}
        <Radios
          label="What goes where"
          value={place}
          change={setPlace}
          options={optionsOf(places).filter((o) => o.value !== 'whole' || file.playbook)}
        />
        {place !== 'after' && (
          <p className="text-soft">Categories under the same names keep their decisions by hand.</p>
        )}
        <EffectOf change={change} />
        <Ends go="Bring it in" ready={!refused} close={close} />
      </form>
    </Dialog>
  );
}
