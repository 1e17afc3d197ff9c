import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { SampleInfo } from '../lib/api';
import { api, take } from '../lib/api';
import { keys, useQuestionId } from '../lib/queries';

/** The coder that stands for what coders agree on, as the server names it. */
export const agreed = '(agreed)';

/** A coder in words. */
export const coderName = (name: string) =>
  name === agreed ? 'what coders agree on' : name === '' ? 'nobody named' : name;

/** The samples of the question, the newest first. */
export function useSamples() {
  const id = useQuestionId();
  return useQuery({
    queryKey: keys.asked(id, 'samples', {}),
    queryFn: ({ signal }) =>
      take(api.GET('/api/v1/questions/{question}/samples', { params: { path: { question: id } }, signal })),
  });
}

/** How far the coding agrees with a coder, or that coder with another one. */
export function useAgreement(sample: SampleInfo, coder: string, against?: string) {
  const id = useQuestionId();
  const query = { coder, ...(against === undefined ? {} : { against, between: true }) };
  return useQuery({
    queryKey: keys.asked(id, 'sample agreement', { sample: sample.id, ...query }),
    queryFn: ({ signal }) =>
      take(
        api.GET('/api/v1/questions/{question}/samples/{sample}/agreement', {
          params: { path: { question: id, sample: sample.id }, query },
          signal,
        }),
      ),
  });
}

/** An answer of a sample, as a coder sees it. */
export function useBlind(sample: number, coder: string, place: number) {
  const id = useQuestionId();
  return useQuery({
    queryKey: keys.asked(id, 'blind', { sample, coder, place }),
    queryFn: ({ signal }) =>
      take(
        api.GET('/api/v1/questions/{question}/samples/{sample}/answers', {
          params: { path: { question: id, sample }, query: { coder, place } },
          signal,
        }),
      ),
    staleTime: 0,
    gcTime: 0,
  });
}

/**
 * Asks anew for what coding a sample changes. The answers that are coded blind are asked for at every step anyway: asked once more between
 * two steps, the next one would come, go and come again, and lose a key pressed in between.
 */
export function useSamplesAgain() {
  const id = useQuestionId();
  const client = useQueryClient();
  return () =>
    Promise.all(
      ['samples', 'sample agreement'].map((name) =>
        client.invalidateQueries({ queryKey: [...keys.question(id), name] }),
      ),
    );
}
