import { useEffect, useMemo, useState } from 'react';
import { api, type FrameLine, take } from '../api/client';
import { useFocus } from '../focus';
import { count, many } from '../format';
import { Words } from '../frame/Answers';
import { useAsk } from '../question';
import { Problems, RuleEditor } from './RuleLine';

type WritingProps = {
  line: FrameLine;
  at: number;
  unless: boolean;
  start: string;
  keep: (s: string) => void;
  drop: () => void;
  remove?: () => void;
};

const tabs = { new: 'New here', all: 'All', shared: 'Shared', lost: 'Lost' } as const;

/** The rule under one's fingers, what it would change, and the answers that say so. */
export function Writing({ line, at, unless, start, keep, drop, remove }: WritingProps) {
  const { focusText } = useFocus();
  const [text, setText] = useState(start);
  const [asked, setAsked] = useState(start);
  const [show, setShow] = useState<keyof typeof tabs>(start ? 'all' : 'new');
  useEffect(() => {
    const t = setTimeout(() => setAsked(text), 90);
    return () => clearTimeout(t);
  }, [text]);
  const preview = useAsk(
    ['rule', line.id, at, unless, asked, show, focusText],
    (question) =>
      take(
        api.POST('/api/v1/questions/{question}/rule', {
          params: { path: { question }, query: { focus: focusText } },
          body: { rule: asked, category: unless ? undefined : line.id, at, show, limit: 20 },
        }),
      ),
    !!asked.trim(),
  );
  const p = asked.trim() ? preview.data : undefined;
  const wrong = useMemo(() => p?.problems ?? [], [p]);
  const stopped = wrong.some((x) => !x.warning);
  const figures = { new: p?.new, all: p?.matches, shared: p?.shared, lost: p?.lost };
  return (
    <div className="writing">
      <div className="ruleline now">
        <span className="no">{at || line.hits.length + 1}</span>
        <RuleEditor
          value={text}
          problems={wrong}
          change={setText}
          keep={() => keep(text)}
          drop={drop}
          label={unless ? 'the “unless” rule being written' : 'the rule being written'}
        />
        <span className="num">{p && !stopped ? count(p.matches) : ''}</span>
      </div>
      {preview.error && <p className="bad">{preview.error.message}</p>}
      {/* A mend is of the text that was judged: while one types on, it is out of reach. */}
      <Problems
        source={asked}
        problems={wrong}
        mend={text === asked && !preview.isPlaceholderData ? setText : undefined}
      />
      {p && !stopped && (
        <p className="effect" role="status">
          {unless
            ? `Matches ${many(p.matches, 'answer')}; what of them is in this category leaves it.`
            : `Catches ${many(p.matches, 'answer')}; ${count(p.uncoded)} of them had no category at all, ${count(p.new)} are new here, ${count(p.only)} nothing else has. ${p.lost ? `${many(p.lost, 'answer')} would be lost.` : 'Nothing is lost.'}`}
        </p>
      )}
      <p className="row">
        <button type="button" className="go" disabled={!text.trim()} onClick={() => keep(text)}>
          Keep <kbd>↵</kbd>
        </button>
        <button type="button" onClick={drop}>
          Drop <kbd>Esc</kbd>
        </button>
        {remove && (
          <button type="button" className="plain" onClick={remove}>
            remove this rule
          </button>
        )}
      </p>
      {p && !stopped && (
        <>
          <div className="tabs" role="tablist" aria-label="Examples">
            {(Object.keys(tabs) as (keyof typeof tabs)[])
              .filter((k) => !unless || k === 'all')
              .map((k) => (
                <button
                  type="button"
                  role="tab"
                  key={k}
                  aria-selected={show === k || unless}
                  onClick={() => setShow(k)}
                >
                  {tabs[k]} {count(figures[k] ?? 0)}
                </button>
              ))}
          </div>
          {p.examples.answers.map((a) => (
            <p className="evidence" key={a.number}>
              <Words answer={a} />
            </p>
          ))}
          {p.examples.total === 0 && <p className="empty">None.</p>}
          {p.examples.total > p.examples.answers.length && (
            <p className="soft">
              and {count(p.examples.total - p.examples.answers.length)} more; keep the rule and press its figure to read
              them all
            </p>
          )}
        </>
      )}
    </div>
  );
}
