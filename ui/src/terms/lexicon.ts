import { api, take } from '../lib/api';
import { useAsk } from '../lib/desk';

/** What was decided about words. */
export const useLexicon = () =>
  useAsk(['lexicon'], (question) =>
    take(api.GET('/api/v1/questions/{question}/lexicon', { params: { path: { question } } })),
  );
