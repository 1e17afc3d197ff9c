import { useEffect, useRef, useState } from 'react';
import { Words } from '../answers/Answers';
import { useFocus } from '../lib/address';
import { type Answer, api, type FrameLine, type RuleQuery, take } from '../lib/api';
import { useAsk, useDesk } from '../lib/desk';
import { bases, count, many, shareIn, tint } from '../lib/format';
import { type Judged, RuleEditor } from './Editor';
import { Misses } from './Misses';
import { Problems } from './Rule';
import { Sharpen } from './Sharpen';

type WritingProps = {
  line: FrameLine;
  /** The rule whose place it takes; empty for a further one. */
  was: string;
  unless: boolean;
  text: string;
  /** What stands beside it. */
  no: number;
  change: (s: string) => void;
  keep: () => void;
  drop: () => void;
  remove?: () => void;
};

const tabs = {
  new: 'New here',
  all: 'All',
  shared: 'Shared',
  lost: 'Lost',
  misses: 'Near misses',
  groups: 'By group',
  better: 'Suggestions',
} as const;
type Tab = keyof typeof tabs;

/** The rule under one's fingers, what it would change, and the answers that say so. */
export function Writing({ line, was, unless, text, no, change, keep, drop, remove }: WritingProps) {
  const { focusText, setPick } = useFocus();
  const { question } = useDesk();
  const [asked, setAsked] = useState(text);
  const [show, setShow] = useState<Tab>(was && !unless ? 'all' : unless ? 'lost' : 'new');
  const variables = question.variables.filter((v) => v.values.length > 0);
  const [by, setBy] = useState(variables[0]?.name ?? '');
  useEffect(() => {
    const t = setTimeout(() => setAsked(text), 15);
    return () => clearTimeout(t);
  }, [text]);
  const examples = show in { new: 1, all: 1, shared: 1, lost: 1 } ? (show as RuleQuery['show']) : 'all';
  const query: RuleQuery = { rule: asked, category: line.id, was: was || undefined, unless: unless || undefined };
  const preview = useAsk(
    ['rule', line.id, was, unless, asked, examples, show === 'groups' ? by : '', focusText],
    (question) =>
      take(
        api.POST('/api/v1/questions/{question}/rule', {
          params: { path: { question }, query: { focus: focusText } },
          body: { ...query, show: examples, by: show === 'groups' ? by : undefined, limit: 20 },
        }),
      ).then((p) => ({ ...p, of: asked })),
    !!asked.trim(),
  );
  const p = asked.trim() ? preview.data : undefined;
  const judged: Judged | undefined = p;
  const stopped = p?.problems.some((x) => !x.warning);
  const figures: Partial<Record<Tab, number>> = { new: p?.new, all: p?.matches, shared: p?.shared, lost: p?.lost };
  const now = useRef(text);
  now.current = text;
  const format = async () => {
    const done = await take(
      api.POST('/api/v1/questions/{question}/rule/format', {
        params: { path: { question: question.id } },
        body: { rule: text },
      }),
    ).catch(() => undefined);
    if (done && now.current === text) change(done.rule); // unless one typed on meanwhile
  };
  const gone = was && !(unless ? line.less : line.hits).some((r) => r.source === was);
  return (
    <div className="writing">
      <div className="ruleline now">
        <span className="no">{no}</span>
        <RuleEditor
          question={question.id}
          focus={focusText}
          value={text}
          judged={judged}
          change={change}
          keep={keep}
          drop={drop}
          format={format}
          label={unless ? 'the “unless” rule being written' : 'the rule being written'}
        />
        <span className="num">{p && !stopped ? count(p.matches) : ''}</span>
      </div>
      {preview.error && <p className="bad">{preview.error.message}</p>}
      {gone && (
        <p className="warning">
          The rule you began to change was changed or removed in another window. Keeping yours adds it as a further one.
        </p>
      )}
      {/* A mend is of the text that was judged: while one types on, it is out of reach. */}
      {judged && (
        <Problems source={judged.of} problems={judged.problems} keys mend={text === judged.of ? change : undefined} />
      )}
      {p && !stopped && (
        <p className="effect" role="status" aria-busy={preview.isPlaceholderData || text !== p.of}>
          {unless
            ? `Matches ${many(p.matches, 'answer')}; ${p.lost ? `${many(p.lost, 'answer')} would leave this category` : 'nothing would leave this category'}${p.new ? `, ${count(p.new)} come back` : ''}.`
            : p.matches === 0
              ? `Catches no answer. ${p.lost ? `${many(p.lost, 'answer')} would be lost.` : ''}`
              : `Catches ${many(p.matches, 'answer')}; ${count(p.uncoded)} had no category at all, ${count(p.new)} new here, ${count(p.only)} in no other. ${p.lost ? `${many(p.lost, 'answer')} would be lost.` : 'Nothing is lost.'}`}
          {p.others.map((o) => (
            <span key={o.id}>
              {' '}
              {o.name} would {o.lost ? `lose ${count(o.lost)}` : ''}
              {o.lost && o.gained ? ' and ' : ''}
              {o.gained ? `gain ${count(o.gained)}` : ''}.
            </span>
          ))}
        </p>
      )}
      <p className="row wrap">
        <button type="button" className="go" disabled={!text.trim()} onClick={keep}>
          Keep <kbd>↵</kbd>
        </button>
        <button type="button" onClick={drop}>
          Drop <kbd>Esc</kbd>
        </button>
        <button type="button" className="plain" disabled={!text.trim() || stopped} onClick={format}>
          usual form <kbd>Alt f</kbd>
        </button>
        {remove && (
          <button type="button" className="plain" onClick={remove}>
            remove this rule
          </button>
        )}
      </p>
      {p && !stopped && (
        <>
          <div className="tabs" role="tablist" aria-label="Evidence">
            {(Object.keys(tabs) as Tab[])
              .filter((k) => !unless || k === 'all' || k === 'lost' || k === 'groups')
              .map((k) => (
                <button type="button" role="tab" key={k} aria-selected={show === k} onClick={() => setShow(k)}>
                  {tabs[k]} {figures[k] === undefined ? '' : count(figures[k])}
                </button>
              ))}
          </div>
          {show === 'misses' ? (
            <Misses query={query} take={change} />
          ) : show === 'better' ? (
            <Sharpen query={query} take={change} />
          ) : show === 'groups' ? (
            <Groups by={by} setBy={setBy} variables={variables.map((v) => v.name)} segments={p.segments} />
          ) : (
            <>
              {show === 'shared' && p.with.length > 0 && (
                <p className="row wrap small">
                  {p.with.slice(0, 8).map((c) => (
                    <span key={c.id} className={tint(c.top)}>
                      <b className="short">{c.short}</b>
                      {c.name} {count(c.answers)}
                    </span>
                  ))}
                  {p.with.length > 8 && <span className="soft">and {count(p.with.length - 8)} more categories</span>}
                </p>
              )}
              {p.examples.answers.map((a) => (
                <Evidence key={a.number} answer={a} category={unless ? undefined : line} />
              ))}
              {p.examples.total === 0 && <p className="empty">None.</p>}
              {p.examples.total > p.examples.answers.length && (
                <p className="soft">
                  and {count(p.examples.total - p.examples.answers.length)} more
                  {show === 'all' ? (
                    <>
                      {': '}
                      <button type="button" className="plain" onClick={() => setPick([{ kind: 'words', text: asked }])}>
                        read them all
                      </button>
                    </>
                  ) : (
                    '; keep the rule and press its figure to read them all'
                  )}
                </p>
              )}
            </>
          )}
        </>
      )}
    </div>
  );
}

/** An answer with what decided; one that is wrong here can be taken off by hand, and speaks for an exclusion then. */
export function Evidence({ answer, category }: { answer: Answer; category?: FrameLine }) {
  const { edit } = useDesk();
  return (
    <div className="evidence">
      <Words answer={answer} />
      {category && !category.net && (
        <button
          type="button"
          className="plain small"
          onClick={() => edit({ kind: 'decide', category: category.id, answers: [answer.number], to: 'off' })}
        >
          wrong here
        </button>
      )}
    </div>
  );
}

type GroupsProps = {
  by: string;
  setBy: (s: string) => void;
  variables: string[];
  segments: { value: string; base: number; answers: number; share: number }[];
};

/** How the matches spread over the values of a variable. */
function Groups({ by, setBy, variables, segments }: GroupsProps) {
  const most = Math.max(...segments.map((s) => s.share), 0);
  return (
    <>
      <p>
        <label className="soft">
          by{' '}
          <select value={by} onChange={(e) => setBy(e.target.value)}>
            {variables.map((v) => (
              <option key={v}>{v}</option>
            ))}
          </select>
        </label>
      </p>
      <table className="plainfigures">
        <thead>
          <tr>
            <th scope="col">{by}</th>
            <th scope="col" className="num">
              matches
            </th>
            <th scope="col" className="num">
              of
            </th>
            <th scope="col" className="num">
              share
            </th>
            <td />
          </tr>
        </thead>
        <tbody>
          {segments.map((s) => (
            <tr key={s.value} className={s.base < bases.small ? 'dim' : ''}>
              <th scope="row">{s.value}</th>
              <td className="num">{count(s.answers)}</td>
              <td className="num soft">{count(s.base)}</td>
              <td className="num">{shareIn(s.base, s.share)}</td>
              <td className="barcell">
                <i style={{ width: s.base < bases.tiny || !most ? 0 : `${(100 * s.share) / most}%` }} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft small">
        Unweighted. Values with a base under {bases.small} are dimmed, under {bases.tiny} get no share.
      </p>
    </>
  );
}
