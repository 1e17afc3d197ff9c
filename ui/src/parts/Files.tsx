import { useQuestionId } from '../lib/queries';

/** Links to what is shown as files, by what the server is asked for it. */
export function Files({ of, query }: { of: string; query: Record<string, unknown> }) {
  const id = useQuestionId();
  const words = new URLSearchParams(
    Object.entries(query).flatMap(([k, v]) =>
      v === undefined || v === '' ? [] : [v].flat().map((one): [string, string] => [k, String(one)]),
    ),
  );
  return (
    <>
      {['csv', 'xlsx'].map((format) => (
        <a
          key={format}
          className="px-0.5 text-ink underline decoration-edge underline-offset-3 hover:decoration-moss"
          href={`/api/v1/questions/${id}/${of}/file?format=${format}&${words}`}
          download
        >
          {format.toUpperCase()}
        </a>
      ))}{' '}
    </>
  );
}
