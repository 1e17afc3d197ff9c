import { api, take } from '../../api/client';
import { useAsk } from '../../question';

/** What was decided about words. */
export const useLexicon = () =>
  useAsk(['lexicon'], (question) =>
    take(api.GET('/api/v1/questions/{question}/lexicon', { params: { path: { question } } })),
  );
