import { useNavigate, useParams } from 'react-router';
import { useAddress } from '../lib/address';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { useStudies } from '../lib/queries';
import { useReports } from '../lib/reports';
import { useTheme } from '../lib/theme';
import { type View, viewAddress, viewOrder, views } from '../lib/views';
import { Button, Kbd, Link } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { useRoving } from '../parts/roving';

type Props = { view: View; open: (what: 'help' | 'revisions' | 'palette') => void };

const low = 'flex min-h-6 w-full items-baseline justify-between gap-2 text-sm text-soft enabled:hover:text-ink';

/** The views with their live figures, and what goes for all of them. */
export function Rail({ view, open }: Props) {
  const { question, undo, redo } = useDesk();
  const { focusText } = useAddress();
  const [theme, turn] = useTheme();
  const steps = useRoving<HTMLUListElement>();
  const below = useRoving<HTMLDivElement>();
  return (
    <nav
      aria-label="Views"
      className="flex size-full min-w-0 flex-col overflow-y-auto border-line pt-3.5 pb-3 max-sm:h-auto max-sm:border-b"
    >
      <Link
        look="bare"
        to="/"
        aria-label="Aftermath: all studies"
        className="px-4 pb-1 font-serif text-xl leading-none font-semibold text-moss italic no-underline"
      >
        Aftermath
      </Link>
      <Switcher />
      <ul {...steps} className="max-sm:flex max-sm:flex-wrap">
        {viewOrder.map((v) => (
          <li key={v}>
            <Link
              look="bare"
              to={viewAddress(question.id, v, focusText)}
              data-stop={v === view ? 'here' : ''}
              aria-current={v === view ? 'page' : undefined}
              className="group flex items-baseline justify-between gap-1.5 border-l-3 border-transparent py-1.75
                pr-3.5 pl-3.25 text-lg no-underline aria-[current]:border-moss aria-[current]:bg-mosspale
                aria-[current]:font-semibold max-sm:border-b-2 max-sm:border-l-0"
            >
              {views[v]} <Figure view={v} />
            </Link>
          </li>
        ))}
      </ul>
      <div {...below} className="mt-auto grid gap-0.5 pt-3 pr-3.5 pl-4 max-sm:grid-cols-3">
        <Button
          look="bare"
          data-stop=""
          className={low}
          onClick={() => undo()}
          aria-disabled={!question.undo}
          title={question.undo ? `Undo: ${question.undo.summary}` : 'Nothing to undo'}
        >
          Undo <Kbd>z</Kbd>
        </Button>
        <Button
          look="bare"
          data-stop=""
          className={low}
          onClick={() => redo()}
          aria-disabled={!question.redo}
          title={question.redo ? `Redo: ${question.redo.summary}` : 'Nothing to redo'}
        >
          Redo <Kbd>Z</Kbd>
        </Button>
        <Button look="bare" data-stop="" className={low} onClick={() => open('revisions')}>
          Revisions <span>{count(question.revisions)}</span>
        </Button>
        <Button look="bare" data-stop="" className={low} onClick={() => open('palette')}>
          Find <Kbd>Ctrl K</Kbd>
        </Button>
        <Button look="bare" data-stop="" className={low} onClick={turn}>
          {theme === 'dark' ? 'Light paper' : 'Dark paper'}
        </Button>
        <Button look="bare" data-stop="" className={low} onClick={() => open('help')}>
          Help <Kbd>?</Kbd>
        </Button>
      </div>
    </nav>
  );
}

/** The one live figure of each view. */
function Figure({ view }: { view: View }) {
  const { question: q } = useDesk();
  const { reports } = useReports();
  const plain = (words: string) => (
    <span className="text-sm font-normal whitespace-nowrap text-soft group-aria-[current]:text-moss">{words}</span>
  );
  const warn = (words: string) => <span className="text-sm font-normal whitespace-nowrap text-clay">{words}</span>;
  switch (view) {
    case 'data':
      return plain(count(q.respondents));
    case 'clean': {
      if (q.warnings) return warn(`${q.warnings} to fix`);
      const without = q.respondents - q.answered;
      return plain(without ? `${count(without)} no answer` : 'all answered');
    }
    case 'terms':
      return plain(count(q.terms));
    case 'code':
      return q.ruleProblems ? warn(`${many(q.ruleProblems, 'rule')} to fix`) : plain(count(q.categories));
    case 'review':
      return plain(`${count(q.left)} left`);
    case 'chart':
      return plain(q.answered ? `${((100 * q.coded) / q.answered).toFixed(0)} % coded` : '');
    case 'report':
      return plain(reports.length ? many(reports.length, 'report') : '');
  }
}

/** The study's name, and its questions to choose from. */
function Switcher() {
  const { question } = useDesk();
  const navigate = useNavigate();
  const { view } = useParams();
  const studies = useStudies();
  const questions = studies.data?.find((s) => s.id === question.study.id)?.questions ?? question.study.questions;
  return (
    <div className="px-4 py-2.5 text-sm leading-tight max-sm:hidden">
      <b className="block font-semibold">{question.study.name}</b>
      <Combobox
        label="Question"
        value={String(question.id)}
        options={questions.map((q) => ({ value: String(q.id), words: q.name }))}
        change={(id) => navigate(`/q/${id}/${view ?? 'terms'}`)}
        className="-ml-1 border-transparent bg-transparent px-1 text-soft"
      />
    </div>
  );
}
