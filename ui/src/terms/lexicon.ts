import { useAsk } from '../lib/queries';

/** What was decided about words. */
export const useLexicon = () => useAsk('lexicon', {});
