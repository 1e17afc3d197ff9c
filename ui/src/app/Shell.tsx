import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { AnswersPane } from '../answers/Answers';
import { useAddress } from '../lib/address';
import { DeskProvider, useDesk, useStatus } from '../lib/edits';
import { count, many } from '../lib/format';
import { useCommands } from '../lib/keys';
import { useProgress } from '../lib/live';
import { useMedia } from '../lib/media';
import { itemAt } from '../lib/required';
import { useTheme } from '../lib/theme';
import { type View, viewAddress, viewOrder, views } from '../lib/views';
import { Failed } from '../parts/Asked';
import { Boundary } from '../parts/Boundary';
import { Button, Kbd, Link } from '../parts/Button';
import { Confirm } from '../parts/Dialog';
import { foldPane, Panes } from '../parts/Panes';
import { Empty, Skeleton } from '../parts/Text';
import { Toast, ToastPlace } from '../parts/Toast';
import { FocusLine } from './FocusLine';
import { Rail } from './Rail';
import { Revisions } from './Revisions';
import { Walk } from './Walk';

const shown = {
  data: lazy(() => import('../data/Data')),
  clean: lazy(() => import('../clean/Clean')),
  terms: lazy(() => import('../terms/Terms')),
  code: lazy(() => import('../code/Code')),
  review: lazy(() => import('../review/Review')),
  chart: lazy(() => import('../chart/Chart')),
  report: lazy(() => import('../report/Report')),
};
const Help = lazy(() => import('./Help'));
const Palette = lazy(() => import('./Palette'));

const frame = ({ error, ready }: { error?: Error; ready: boolean }) =>
  ready ? <Frame error={error} /> : error ? <Closed message={error.message} /> : <Opening />;

export default function Shell() {
  return <DeskProvider>{frame}</DeskProvider>;
}

const lone = 'mx-auto grid max-w-215 gap-3.5 px-6 py-8.5';

/** Why nothing is shown, and the ways on. */
function Closed({ message }: { message: string }) {
  const { focus, setFocus } = useAddress();
  return (
    <main className={lone}>
      <h1 className="font-serif text-2xl font-semibold">
        {focus.length ? 'This focus can’t be shown' : 'This question can’t be opened'}
      </h1>
      <p className="text-clay">{message}</p>
      <p className="flex items-baseline gap-2.5">
        {focus.length > 0 && (
          <Button look="go" onClick={() => setFocus([])}>
            Show all answers instead
          </Button>
        )}
        <Link to="/">All studies</Link>
      </p>
    </main>
  );
}

function Opening() {
  const p = useProgress();
  return (
    <main className={lone}>
      <h1 className="font-serif text-2xl font-semibold">Opening…</h1>
      <p className="text-soft" role="status">
        {p?.total ? `${count(p.done ?? 0)} of ${count(p.total)} answers read` : 'reading the answers'}
      </p>
      <Skeleton lines={4} />
    </main>
  );
}

/** The panes: the key that goes to each, in words, and the element. */
const panes = [
  ['V', 'Go to the view', '#main [data-list], #main'],
  ['B', 'Go to what stands beneath', '#beneath [data-list], #beneath'],
  ['A', 'Go to the answers', '#answers [data-list], #answers'],
  ['R', 'Go to the list of views', '#views [aria-current]'],
] as const;

function goTo(selector: string) {
  for (const s of selector.split(', ')) {
    const found = document.querySelector<HTMLElement>(s);
    if (!found) continue;
    const to = found.tabIndex >= 0 ? found : (found.querySelector<HTMLElement>('[tabindex="0"]') ?? found);
    to.focus();
    return;
  }
}

function Frame({ error }: { error?: Error }) {
  const view = (useParams().view ?? 'terms') as View;
  const { question, undo, redo, warning, forgetWarning } = useDesk();
  const { focusText, get } = useAddress();
  const navigate = useNavigate();
  // Who codes a sample blind must not see how answers are coded.
  const blind = view === 'review' && get('tab') === 'agreement' && get('see') === 'code';
  const [, turn] = useTheme();
  const [over, setOver] = useState<'help' | 'revisions' | 'palette'>();
  const small = useMedia('(max-width: 45rem)');
  const narrow = useMedia('(max-width: 67.5rem)');
  const step = (by: number) => {
    const next = itemAt(viewOrder, (viewOrder.indexOf(view) + by + viewOrder.length) % viewOrder.length);
    navigate(viewAddress(question.id, next, focusText));
  };
  useCommands('Everywhere', [
    { key: 'Ctrl+k', words: 'Find and do anything', act: () => setOver('palette') },
    { key: '[', words: 'Go to the view before', act: () => step(-1) },
    { key: ']', words: 'Go to the view after', act: () => step(1) },
    { key: 'z', words: 'Undo', act: () => undo() },
    { key: 'Z', words: 'Redo', act: () => redo() },
    { key: 'Ctrl+z', words: 'Undo', act: () => undo(), move: true },
    { key: 'Ctrl+y', words: 'Redo', act: () => redo(), move: true },
    { key: '', words: 'Open the list of revisions', act: () => setOver('revisions') },
    ...panes.map(([key, words, selector]) => ({ key, words, act: () => goTo(selector) })),
    { key: '|', words: 'Fold the answers away, or show them', act: () => foldPane('answers') },
    { key: '', words: 'Fold the list of views away, or show it', act: () => foldPane('views') },
    { key: '', words: 'Turn between light and dark paper', act: turn },
    { key: '?', words: 'Help on this view, and all its keys', act: () => setOver('help') },
  ]);
  useEffect(() => {
    document.title = `${views[view] ?? ''} · ${question.study.name} · Aftermath`;
  }, [view, question.study.name]);
  // Who came to another view by key or link goes on in it.
  const main = useRef<HTMLElement>(null);
  const came = useRef(view);
  useEffect(() => {
    if (came.current !== view) main.current?.focus({ preventScroll: true });
    came.current = view;
  }, [view]);
  const Shown = shown[view];
  const middle = (
    <main
      ref={main}
      id="main"
      tabIndex={-1}
      aria-label={views[view]}
      className="relative size-full min-w-0 overflow-auto px-5.5 pt-4.5 pb-3 outline-none max-sm:h-auto"
    >
      <h1 className="sr-only">
        {views[view] ?? 'No such view'}: {question.name}
      </h1>
      {error && <Failed error={error} />}
      <Walk view={view} />
      {Shown ? (
        <Boundary what={`The view ${views[view]}`} key={view}>
          <Suspense fallback={<Skeleton lines={8} />}>
            <Shown />
          </Suspense>
        </Boundary>
      ) : (
        <Empty>There is no such view. Choose one on the left.</Empty>
      )}
    </main>
  );
  const pane = (
    <Boundary what="The list of answers">
      <AnswersPane />
    </Boundary>
  );
  const rail = <Rail view={view} open={setOver} />;
  const work = (
    <div className="flex size-full min-h-0 flex-col">
      <FocusLine />
      <Unsent />
      {small ? (
        <>
          {middle}
          {!blind && <div className="h-[60vh] border-t">{pane}</div>}
        </>
      ) : (
        <div className="min-h-0 flex-1">
          <Panes
            key={narrow ? 'below' : 'beside'}
            none={blind}
            direction={narrow ? 'vertical' : 'horizontal'}
            side={{
              id: 'answers',
              name: 'the answers',
              size: narrow ? '38vh' : '23.25rem',
              least: narrow ? '8rem' : '15rem',
              most: '65%',
              children: pane,
            }}
          >
            {middle}
          </Panes>
        </div>
      )}
      <StatusLine />
    </div>
  );
  return (
    <>
      <SkipLinks />
      {small ? (
        <>
          {rail}
          {work}
        </>
      ) : (
        <Panes
          direction="horizontal"
          side={{
            id: 'views',
            name: 'the views',
            first: true,
            size: '10.5rem',
            least: '8.5rem',
            most: '20rem',
            children: rail,
          }}
        >
          {work}
        </Panes>
      )}
      {warning && (
        <Confirm title={`Undo “${warning.summary}”?`} go="Undo" act={() => undo(warning.edit)} close={forgetWarning}>
          {warning.text}
        </Confirm>
      )}
      {over === 'revisions' && <Revisions close={() => setOver(undefined)} />}
      <Suspense>
        {over === 'help' && <Help view={view} close={() => setOver(undefined)} />}
        {over === 'palette' && <Palette close={() => setOver(undefined)} />}
      </Suspense>
    </>
  );
}

function SkipLinks() {
  const look =
    'absolute z-50 -translate-y-20 rounded-(--radius) bg-moss px-3 py-1.5 text-onmoss focus:translate-y-1 focus:translate-x-1';
  return (
    <>
      <Button look="bare" className={look} onClick={() => goTo('#main [data-list], #main')}>
        Go to the view
      </Button>
      <Button look="bare" className={look} onClick={() => goTo('#answers [data-list], #answers')}>
        Go to the answers
      </Button>
    </>
  );
}

/** Edits that could not be kept: they wait here to be sent again. */
function Unsent() {
  const { unsent, sendAgain, discardUnsent } = useDesk();
  if (!unsent.length) return null;
  return (
    <p role="status" className="flex items-baseline gap-3 border-b px-5.5 py-1.5 text-base text-clay">
      {many(unsent.length, 'edit')} could not be kept, and {unsent.length > 1 ? 'wait' : 'waits'} here.
      <Button look="go" onClick={sendAgain}>
        Send again
      </Button>
      <Button look="plain" onClick={discardUnsent}>
        Discard
      </Button>
    </p>
  );
}

/** What was just done, or how far it is; at the foot of the page, where it covers nothing. */
function StatusLine() {
  const { say, cancel, undo } = useDesk();
  const { notice, busy } = useStatus();
  const progress = useProgress();
  const running = busy && progress?.total ? progress : undefined;
  return (
    <div className="flex h-8 flex-none items-center gap-3 border-t px-5.5 text-sm">
      {running && (
        <p role="status" className="text-base">
          {running.what} {count(running.done ?? 0)} of {count(running.total ?? 0)} answers{' '}
          <Button look="plain" onClick={cancel}>
            Cancel
          </Button>
        </p>
      )}
      <ToastPlace className="min-w-0 flex-1" />
      {notice && !running && (
        <Toast
          key={notice.at}
          bad={notice.bad}
          action={notice.undo ? { words: 'Undo', act: () => undo(notice.undo) } : notice.action}
          close={() => say(undefined)}
        >
          {notice.text}
        </Toast>
      )}
      <span className="ml-auto whitespace-nowrap text-soft max-md:hidden">
        find and do anything <Kbd>Ctrl K</Kbd>
      </span>
    </div>
  );
}
