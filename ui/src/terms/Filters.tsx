import { useState } from 'react';
import { NumberField } from '../parts/NumberField';
import { useLexicon } from './lexicon';

export type Filter = {
  search: string;
  answers: number;
  letters: number;
  list: string;
  notMerged: boolean;
  notInRules: boolean;
};

export const noFilter: Filter = { search: '', answers: 0, letters: 0, list: '', notMerged: false, notInRules: false };

/** Which terms the ledger lists. */
export function Filters({ filter: f, change }: { filter: Filter; change: (f: Filter) => void }) {
  const [open, setOpen] = useState(false);
  const lexicon = useLexicon();
  const set = [f.answers > 1, f.letters > 1, !!f.list, f.notMerged, f.notInRules].filter(Boolean).length;
  return (
    <>
      <input
        className="search"
        placeholder="find: queu*"
        aria-label="Find a term"
        title="letters in a term or what is joined under it; with * or ? a pattern"
        value={f.search}
        onChange={(e) => change({ ...f, search: e.target.value })}
      />
      <button type="button" className="plain" aria-expanded={open} onClick={() => setOpen(!open)}>
        {set ? many(set) : 'filter'}
      </button>
      {open && (
        <div className="filters">
          <NumberField
            label="in at least so many answers"
            value={f.answers}
            change={(answers) => change({ ...f, answers: Math.floor(answers) })}
          />
          <NumberField
            label="of at least so many letters"
            value={f.letters}
            change={(letters) => change({ ...f, letters: Math.floor(letters) })}
          />
          <label>
            on the list{' '}
            <select value={f.list} onChange={(e) => change({ ...f, list: e.target.value })}>
              <option value="">any or none</option>
              <option value="negators">@negators</option>
              {lexicon.data?.lexicon.lists?.map((l) => (
                <option key={l.name} value={l.name}>
                  @{l.name}
                </option>
              ))}
            </select>
          </label>
          <label>
            <input
              type="checkbox"
              checked={f.notMerged}
              onChange={(e) => change({ ...f, notMerged: e.target.checked })}
            />{' '}
            in no merge
          </label>
          <label>
            <input
              type="checkbox"
              checked={f.notInRules}
              onChange={(e) => change({ ...f, notInRules: e.target.checked })}
            />{' '}
            in no rule
          </label>
          <p className="row">
            <button type="button" className="plain" onClick={() => change({ ...noFilter, search: f.search })}>
              no filters
            </button>
            <button type="button" className="plain" onClick={() => setOpen(false)}>
              close
            </button>
          </p>
        </div>
      )}
    </>
  );
}

const many = (n: number) => (n === 1 ? 'one filter' : `${n} filters`);
