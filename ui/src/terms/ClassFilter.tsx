import { useAddress } from '../lib/address';
import { optionsOf, Select } from '../parts/Select';
import { useLexicon } from './lexicon';

/** Word classes that terms may be narrowed to. */
export const classes = {
  any: 'any class',
  noun: 'nouns',
  verb: 'verbs',
  adjective: 'adjectives',
  adverb: 'adverbs',
  other: 'not in the dictionary',
} as const;
export type WordClass = keyof typeof classes;

/** The word class that the address line asks for. */
export function useWordClass(): WordClass {
  const { one } = useAddress();
  return one('class', Object.keys(classes) as WordClass[]);
}

/** Chooses a word class; nothing for languages without a table of words. */
export function ClassFilter() {
  const { set } = useAddress();
  const lexicon = useLexicon();
  const value = useWordClass();
  if (!lexicon.data?.table) return null;
  return (
    <label>
      of{' '}
      <Select
        label="word class"
        value={value}
        change={(c) => set({ class: c === 'any' ? '' : c, pick: '' })}
        options={optionsOf(classes)}
      />
    </label>
  );
}
