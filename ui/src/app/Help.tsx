import { useState } from 'react';
import chart from '../../../docs/chart.md?raw';
import clean from '../../../docs/cleaning.md?raw';
import code from '../../../docs/code.md?raw';
import data from '../../../docs/data.md?raw';
import report from '../../../docs/report.md?raw';
import review from '../../../docs/review.md?raw';
import terms from '../../../docs/terms.md?raw';
import { allCommands, keyName, useLetters } from '../lib/keys';
import { type View, views } from '../lib/views';
import { Button, Kbd } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Dialog } from '../parts/Dialog';
import { Markdown, section } from '../parts/Markdown';
import { walkAgain } from './Walk';

const pages: Record<View, string> = { data, clean, terms, code, review, chart, report };

/** A short page about the view, with all keys that do something now. */
export default function Help({ view, close }: { view: View; close: () => void }) {
  const [whole, setWhole] = useState(false);
  const [commands] = useState(allCommands);
  const [letters, setLetters] = useLetters();
  const page = pages[view] ?? '';
  return (
    <Dialog title={`Help: ${views[view] ?? ''}`} close={close} wide>
      <Markdown text={whole ? page : section(page, 'In short')} />
      <p className="flex flex-wrap items-baseline gap-2.5 pb-4">
        <Button look="plain" onClick={() => setWhole(!whole)}>
          {whole ? 'In short' : 'Read the whole page'}
        </Button>
        <Button
          look="plain"
          onClick={() => {
            walkAgain();
            close();
          }}
        >
          First steps, one by one
        </Button>
      </p>
      <h2 className="font-serif text-lg font-semibold">Keys</h2>
      <p className="pb-2">
        <label>
          <Checkbox checked={letters} change={setLetters} /> single letters are commands (keys with Ctrl or Alt always
          are)
        </label>
      </p>
      <div className="columns-[16rem] gap-7.5">
        {[...commands].map(([where, list]) => (
          <section key={where} className="break-inside-avoid pb-3">
            <h3 className="font-semibold">{where}</h3>
            <dl>
              {list
                .filter((c) => c.key && !(c.move && c.key.startsWith('Ctrl')))
                .map((c) => (
                  <div key={c.key} className="grid grid-cols-[4.5rem_1fr] gap-2 py-0.75">
                    <dt>
                      <Kbd>{keyName(c.key)}</Kbd>
                    </dt>
                    <dd className="text-soft">{c.words}</dd>
                  </div>
                ))}
            </dl>
          </section>
        ))}
      </div>
      <p>
        <Button onClick={close}>Close</Button>
      </p>
    </Dialog>
  );
}
