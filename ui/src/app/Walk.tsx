import { useDesk } from '../lib/edits';
import { followed } from '../lib/followed';
import { type View, viewAddress, views } from '../lib/views';
import { Button, Link } from '../parts/Button';

/** A first walk through the work: what to look at in each view, and one thing to try. */
const steps: { view: View; words: string }[] = [
  { view: 'data', words: 'Each strip is a column of the file. Press one to see its values and how it is read.' },
  {
    view: 'clean',
    words: 'Turn a step off: before anything is kept, the proof sheet shows which answers would be read differently.',
  },
  {
    view: 'terms',
    words: 'Press a term to read it in context. Tick two that mean the same and press m to count them as one.',
  },
  { view: 'code', words: 'Open a category and press a to write a rule; under it stands what it would change.' },
  {
    view: 'review',
    words: 'What no rule has caught, in groups: make a rule of one, put all of it into a category, or go one by one.',
  },
  { view: 'chart', words: 'Choose a segment, then press any bar to read the very answers it counts.' },
];

const name = 'first steps';
const stands = followed(localStorage.getItem(name) ?? '0');
function put(at: string) {
  localStorage.setItem(name, at);
  stands.set(at);
}

/** Takes the walk up again from its beginning. */
export const walkAgain = () => put('0');

/** The walk's step, above the view; it can be left at any time and taken up again from the help. */
export function Walk({ view }: { view: View }) {
  const { question } = useDesk();
  const at = stands.use();
  const n = Number(at);
  const step = at === 'left' ? undefined : steps[n];
  if (!step) return null;
  const next = steps[n + 1];
  return (
    <aside
      aria-label="First steps"
      className="mb-3 flex flex-wrap items-baseline gap-x-3 gap-y-1 border-l-3 border-moss bg-mosspale px-3 py-1.5"
    >
      <b className="font-semibold">
        First steps, {n + 1} of {steps.length}: {views[step.view]}
      </b>
      <span className="min-w-60 flex-1">{step.words}</span>
      {view !== step.view && <Link to={viewAddress(question.id, step.view, '')}>Go to {views[step.view]}</Link>}
      {view === step.view &&
        (next ? (
          <Link to={viewAddress(question.id, next.view, '')} onClick={() => put(String(n + 1))}>
            Next: {views[next.view]}
          </Link>
        ) : (
          <Button look="plain" onClick={() => put('left')}>
            Done
          </Button>
        ))}
      <Button look="plain" className="text-soft" onClick={() => put('left')}>
        Leave the first steps
      </Button>
    </aside>
  );
}
