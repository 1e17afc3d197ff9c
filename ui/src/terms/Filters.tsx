import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { NumberField } from '../parts/NumberField';
import { Popover } from '../parts/Popover';
import { optionsOf, Select } from '../parts/Select';
import { TextField } from '../parts/Text';
import { classes, type WordClass } from './ClassFilter';
import { useLexicon } from './lexicon';

export type Filter = {
  search: string;
  answers: number;
  letters: number;
  list: string;
  notMerged: boolean;
  notInRules: boolean;
  class: WordClass;
  everyday: number;
};

export const noFilter: Filter = {
  search: '',
  answers: 0,
  letters: 0,
  list: '',
  notMerged: false,
  notInRules: false,
  class: 'any',
  everyday: 0,
};

/** Which terms the ledger lists. */
export function Filters({ filter: f, change, known }: { filter: Filter; change: (f: Filter) => void; known: boolean }) {
  const set = [
    f.answers > 1,
    f.letters > 1,
    !!f.list,
    f.notMerged,
    f.notInRules,
    f.class !== 'any',
    f.everyday > 0,
  ].filter(Boolean).length;
  return (
    <>
      <TextField
        className="w-28"
        placeholder="find: queu*"
        aria-label="Find a term"
        title="letters in a term or what is joined under it; with * or ? a pattern"
        value={f.search}
        onChange={(e) => change({ ...f, search: e.target.value })}
      />
      <Popover words={set ? many(set) : 'filter'} label="Which terms are listed">
        <div className="grid gap-1.75">
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
          <p>
            on the list <Lists value={f.list} change={(list) => change({ ...f, list })} />
          </p>
          {known && (
            <>
              <p>
                word class{' '}
                <Select
                  label="word class"
                  value={f.class}
                  change={(c) => change({ ...f, class: c })}
                  options={optionsOf(classes)}
                />
              </p>
              <NumberField
                label="said at least so many times as often as in everyday English"
                value={f.everyday}
                change={(everyday) => change({ ...f, everyday })}
              />
            </>
          )}
          <label>
            <Checkbox checked={f.notMerged} change={(on) => change({ ...f, notMerged: on })} /> in no merge
          </label>
          <label>
            <Checkbox checked={f.notInRules} change={(on) => change({ ...f, notInRules: on })} /> in no rule
          </label>
          <p>
            <Button look="plain" onClick={() => change({ ...noFilter, search: f.search })}>
              No filters
            </Button>
          </p>
        </div>
      </Popover>
    </>
  );
}

/** The term lists there are; they are asked for when the filters are open. */
function Lists({ value, change }: { value: string; change: (list: string) => void }) {
  const lexicon = useLexicon();
  return (
    <Combobox
      label="on the list"
      value={value}
      change={change}
      options={[
        { value: '', words: 'any or none' },
        { value: 'negators', words: '@negators' },
        ...(lexicon.data?.lexicon.lists ?? []).map((l) => ({ value: l.name, words: `@${l.name}` })),
      ]}
    />
  );
}

const many = (n: number) => (n === 1 ? 'one filter' : `${n} filters`);
