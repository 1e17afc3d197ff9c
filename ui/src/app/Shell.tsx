import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { AnswersPane } from '../answers/Answers';
import { useFocus } from '../lib/address';
import { api, take } from '../lib/api';
import { DeskProvider, useDesk, useQuestionId } from '../lib/desk';
import { count, many } from '../lib/format';
import { useKeys } from '../lib/keys';
import { useProgress } from '../lib/live';
import { useTheme } from '../lib/theme';
import { Help, Revisions, Sheet } from '../parts/Dialog';
import { FocusLine } from './FocusLine';

const views = {
  data: lazy(() => import('../data/Data')),
  clean: lazy(() => import('../clean/Clean')),
  terms: lazy(() => import('../terms/Terms')),
  code: lazy(() => import('../code/Code')),
  review: lazy(() => import('../review/Review')),
  chart: lazy(() => import('../chart/Chart')),
};
type View = keyof typeof views;
const order = Object.keys(views) as View[];
const named: Record<View, string> = {
  data: 'Data',
  clean: 'Clean',
  terms: 'Terms',
  code: 'Code',
  review: 'Review',
  chart: 'Chart',
};

export default function Shell() {
  return (
    <DeskProvider>
      {({ error, ready }) =>
        ready ? <Frame error={error} /> : error ? <Closed message={error.message} /> : <Opening />
      }
    </DeskProvider>
  );
}

/** Why nothing is shown, and the ways on. */
function Closed({ message }: { message: string }) {
  const { focus, setFocus } = useFocus();
  return (
    <main className="lone">
      <h1>{focus.length ? 'This focus can’t be shown' : 'This question can’t be opened'}</h1>
      <p className="bad">{message}</p>
      <p className="row">
        {focus.length > 0 && (
          <button type="button" className="go" onClick={() => setFocus([])}>
            Show all answers instead
          </button>
        )}
        <Link to="/">All studies</Link>
      </p>
    </main>
  );
}

function Opening() {
  const p = useProgress();
  return (
    <main className="lone">
      <h1>Opening…</h1>
      <p className="soft" role="status">
        {p?.total ? `${count(p.done ?? 0)} of ${count(p.total)} answers read` : 'reading the answers'}
      </p>
    </main>
  );
}

function Frame({ error }: { error?: Error }) {
  const view = (useParams().view ?? 'terms') as View;
  const { question, undo, redo, warning, forgetWarning, notice, say, busy, cancel } = useDesk();
  const { params } = useFocus();
  const navigate = useNavigate();
  const [sheet, setSheet] = useState<'keys' | 'revisions'>();
  const [theme, turn] = useTheme();
  const id = useQuestionId();
  const progress = useProgress();
  const to = (v: View) => {
    // The focus goes along; what was selected stays behind.
    const keep = params.get('focus');
    return `/q/${id}/${v}${keep ? `?focus=${encodeURIComponent(keep)}` : ''}`;
  };
  const step = (by: number) => navigate(to(order[(order.indexOf(view) + by + order.length) % order.length]!));
  useKeys({
    z: () => undo(),
    Z: () => redo(),
    '?': () => setSheet('keys'),
    '[': () => step(-1),
    ']': () => step(1),
  });
  useEffect(() => {
    document.title = `${named[view] ?? ''} · ${question.study.name} · Aftermath`;
  }, [view, question.study.name]);
  const Shown = views[view];
  return (
    <div className="frame">
      <nav className="rail" aria-label="Views">
        <Link to="/" className="word" aria-label="Aftermath: all studies">
          Aftermath
        </Link>
        <Switcher />
        {order.map((v) => (
          <Link key={v} to={to(v)} className="step" aria-current={v === view ? 'page' : undefined}>
            {named[v]} <Figure view={v} />
          </Link>
        ))}
        <div className="low">
          <button
            type="button"
            onClick={() => undo()}
            disabled={!question.undo}
            title={question.undo && `Undo: ${question.undo.summary}`}
          >
            Undo <kbd>z</kbd>
          </button>
          <button
            type="button"
            onClick={() => redo()}
            disabled={!question.redo}
            title={question.redo && `Redo: ${question.redo.summary}`}
          >
            Redo <kbd>Z</kbd>
          </button>
          <button type="button" onClick={() => setSheet('revisions')}>
            Revisions <span>{count(question.revisions)}</span>
          </button>
          <button type="button" onClick={turn}>
            {theme === 'dark' ? 'Light paper' : 'Dark paper'}
          </button>
          <button type="button" onClick={() => setSheet('keys')}>
            Keys <kbd>?</kbd>
          </button>
        </div>
      </nav>
      <FocusLine />
      <main className="main" id="main">
        {error && <p className="bad">{error.message}</p>}
        {Shown ? (
          <Suspense fallback={<p className="ghost">&nbsp;</p>}>
            <Shown />
          </Suspense>
        ) : (
          <p className="empty">There is no such view. Choose one on the left.</p>
        )}
      </main>
      <AnswersPane />
      <div className="notices" role="status" aria-live="polite">
        {busy && progress?.total ? (
          <p>
            {progress.what} {count(progress.done ?? 0)} of {count(progress.total)} answers{' '}
            <button type="button" className="plain" onClick={cancel}>
              cancel
            </button>
          </p>
        ) : notice ? (
          <p className={notice.bad ? 'bad' : ''}>
            {notice.text}{' '}
            {notice.undo && (
              <button type="button" className="plain" onClick={() => undo(notice.undo)}>
                undo
              </button>
            )}{' '}
            <button type="button" className="plain" aria-label="close this notice" onClick={() => say(undefined)}>
              ×
            </button>
          </p>
        ) : null}
      </div>
      {warning && (
        <Sheet title={`Undo “${warning.summary}”?`} close={forgetWarning}>
          <p>{warning.text}</p>
          <p className="row">
            <button type="button" className="go" onClick={() => undo(warning.edit)}>
              Undo
            </button>
            <button type="button" onClick={forgetWarning}>
              Cancel
            </button>
          </p>
        </Sheet>
      )}
      {sheet === 'keys' && <Help close={() => setSheet(undefined)} />}
      {sheet === 'revisions' && <Revisions close={() => setSheet(undefined)} />}
    </div>
  );
}

/** The one live figure of each view. */
function Figure({ view }: { view: View }) {
  const { question: q } = useDesk();
  switch (view) {
    case 'data':
      return <i>{count(q.respondents)}</i>;
    case 'clean': {
      if (q.warnings) return <i className="warn">{q.warnings} to mend</i>;
      const silent = q.respondents - q.answered;
      return <i>{silent ? `${count(silent)} silent` : 'all answered'}</i>;
    }
    case 'terms':
      return <i>{count(q.terms)}</i>;
    case 'code':
      return q.ruleProblems ? (
        <i className="warn">{many(q.ruleProblems, 'rule')} to mend</i>
      ) : (
        <i>{count(q.categories)}</i>
      );
    case 'review':
      return <i>{count(q.left)} left</i>;
    case 'chart':
      return <i>{q.answered ? `${((100 * q.coded) / q.answered).toFixed(0)} % coded` : ''}</i>;
  }
}

/** The study's name, and its questions to choose from. */
function Switcher() {
  const { question } = useDesk();
  const navigate = useNavigate();
  const { view } = useParams();
  const studies = useQuery({ queryKey: ['studies'], queryFn: () => take(api.GET('/api/v1/studies')) });
  const questions = studies.data?.find((s) => s.id === question.study.id)?.questions ?? question.study.questions;
  return (
    <div className="study">
      <b>{question.study.name}</b>
      <select
        aria-label="Question"
        value={question.id}
        title={question.name}
        onChange={(e) => navigate(`/q/${e.target.value}/${view ?? 'terms'}`)}
      >
        {questions.map((q) => (
          <option key={q.id} value={q.id}>
            {q.name}
          </option>
        ))}
      </select>
    </div>
  );
}
