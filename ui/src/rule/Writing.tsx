import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import { InPane } from '../answers/slot';
import { useAddress } from '../lib/address';
import { api, type FrameLine, type RuleQuery, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { bases, count, many, shareIn, tint } from '../lib/format';
import { useTry } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Bar } from '../parts/Bar';
import { Button, Kbd } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Table } from '../parts/Table';
import { Tabs } from '../parts/Tabs';
import { Empty, Sentence, Short, Skeleton } from '../parts/Text';
import { type Judged, RuleEditor } from './Editor';
import { EvidenceList } from './Evidence';
import { Misses } from './Misses';
import { Problems } from './Rule';
import { Sharpen } from './Sharpen';
import type { TakeFor } from './takes';
import { withNoteOf } from './written';

const Reference = lazy(() => import('./Reference'));

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
  /** It is being kept. */
  busy: boolean;
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
/** Those that are answers: they are read in the answers pane. */
const read = ['new', 'all', 'shared', 'lost'] as const;
type Read = (typeof read)[number];
const isRead = (t: Tab): t is Read => read.some((r) => r === t);

/** The rule under one's fingers, what it would change, and the answers that say so. */
export default function Writing({ line, was, unless, text, no, busy, change, keep, drop, remove }: WritingProps) {
  const { focusText, setPick } = useAddress();
  const { question } = useDesk();
  const [asked, setAsked] = useState(text);
  const [show, setShow] = useState<Tab>(was && !unless ? 'all' : unless ? 'lost' : 'new');
  const [reference, setReference] = useState(false);
  const variables = question.variables.filter((v) => v.values.length > 0);
  const [by, setBy] = useState(variables[0]?.name ?? '');
  useEffect(() => {
    const t = setTimeout(() => setAsked(text), 15);
    return () => clearTimeout(t);
  }, [text]);
  const query: RuleQuery = { rule: asked, category: line.id, was: was || undefined, unless: unless || undefined };
  const preview = useTry(
    'rule',
    { ...query, show: isRead(show) ? show : 'all', by: show === 'groups' ? by : undefined, limit: 30 },
    { query: { focus: focusText }, enabled: !!asked.trim() },
  );
  const p = asked.trim() ? preview.data : undefined;
  const judged: Judged | undefined = p && { of: p.of.rule, problems: p.problems };
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
  /** What is proposed for the text that was judged goes into no other. */
  const takeFor: TakeFor = (of) => async (s) => {
    const taken = await withNoteOf(s, of).catch(() => undefined); // without an answer the note could get lost
    if (taken !== undefined && now.current === of) change(taken);
  };
  return (
    <div data-part="writing">
      <div
        data-part="ruleline"
        className="-ml-2 grid grid-cols-[1.4rem_minmax(0,1fr)_auto] items-baseline gap-x-2 border-b border-l-3
          border-l-moss bg-sheet py-1.5 pl-1.25"
      >
        <span className="text-sm text-soft">{no}</span>
        <RuleEditor
          question={question.id}
          focus={focusText}
          value={text}
          judged={judged}
          holding={p?.holding}
          change={change}
          keep={keep}
          drop={drop}
          format={format}
          busy={busy}
          label={unless ? 'The “unless” rule being written' : 'The rule being written'}
        />
        <span className="text-right">{p && !stopped ? count(p.matches) : ''}</span>
      </div>
      {preview.error && <Failed error={preview.error} again={() => preview.refetch()} />}
      {gone && (
        <p className="text-soft">
          The rule you began to change was changed or removed in another window. Keeping yours adds it as a further one.
        </p>
      )}
      {/* A mend is of the text that was judged: while one types on, it is out of reach. */}
      {judged && (
        <Problems
          source={judged.of}
          problems={judged.problems}
          keys
          mend={text === judged.of ? takeFor(judged.of) : undefined}
        />
      )}
      {p && !stopped && (
        <Sentence role="status" aria-busy={preview.isPlaceholderData || text !== p.of.rule}>
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
        </Sentence>
      )}
      <p className="flex flex-wrap items-baseline gap-2.5 pt-1">
        <Button look="go" disabled={!text.trim() || busy} onClick={keep}>
          Keep <Kbd>↵</Kbd>
        </Button>
        <Button onClick={drop}>
          Cancel <Kbd>Esc</Kbd>
        </Button>
        <Button look="plain" disabled={!text.trim() || stopped} onClick={format}>
          usual form <Kbd>Alt f</Kbd>
        </Button>
        {remove && (
          <Button look="plain" onClick={remove}>
            Delete this rule
          </Button>
        )}
        <Button look="plain" aria-expanded={reference} onClick={() => setReference(!reference)}>
          how rules are written
        </Button>
      </p>
      {reference && (
        <Suspense fallback={<Skeleton lines={5} />}>
          <Reference />
        </Suspense>
      )}
      {p && !stopped && (
        <>
          <Tabs
            label="Evidence"
            value={show}
            change={setShow}
            className="pt-3"
            tabs={(Object.keys(tabs) as Tab[])
              .filter((k) => !unless || k === 'all' || k === 'lost' || k === 'groups')
              .map((k) => ({
                value: k,
                words: `${tabs[k]} ${figures[k] === undefined ? '' : count(figures[k])}`.trim(),
              }))}
          >
            {show === 'misses' ? (
              <Misses query={query} takeFor={takeFor} />
            ) : show === 'better' ? (
              <Sharpen query={query} takeFor={takeFor} />
            ) : show === 'groups' ? (
              <Groups by={by} setBy={setBy} variables={variables.map((v) => v.name)} segments={p.segments} />
            ) : show === 'shared' && p.with.length > 0 ? (
              <p className="flex flex-wrap items-baseline gap-2.5 text-sm">
                {p.with.slice(0, 8).map((c) => (
                  <span key={c.id} className={tint(c.top)}>
                    <Short>{c.short}</Short>
                    {c.name} {count(c.answers)}
                  </span>
                ))}
                {p.with.length > 8 && <span className="text-soft">and {count(p.with.length - 8)} more categories</span>}
              </p>
            ) : null}
          </Tabs>
          {isRead(show) && (
            <InPane>
              <h2 className="pb-2 font-sans text-sm text-soft">
                {many(p.examples.total, 'answer')}: {inWords[show]}
              </h2>
              <div
                data-list=""
                role="region"
                aria-label="Evidence" // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
                tabIndex={0}
                aria-busy={preview.isPlaceholderData}
                className="min-h-0 flex-1 overflow-y-auto pr-5 outline-offset-[-2px]"
              >
                <EvidenceList answers={p.examples.answers} category={unless ? undefined : line} />
                {p.examples.total === 0 && <Empty>None.</Empty>}
                {show === 'all' && p.examples.total > 0 ? (
                  <p className="py-2">
                    <Button
                      look="plain"
                      onClick={() => {
                        setPick([{ kind: 'words', text: asked }]);
                        setShow('groups');
                      }}
                    >
                      read them all
                    </Button>
                  </p>
                ) : (
                  p.examples.total > p.examples.answers.length && (
                    <p className="py-2 text-soft">
                      and {count(p.examples.total - p.examples.answers.length)} more; keep the rule and press its figure
                      to read them all
                    </p>
                  )
                )}
              </div>
            </InPane>
          )}
        </>
      )}
    </div>
  );
}

const inWords: Record<Read, string> = {
  new: 'the rule would put here',
  all: 'the rule catches',
  shared: 'caught, and in other categories too',
  lost: 'would leave this category',
};

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
        <label className="text-soft">
          by{' '}
          <Combobox
            label="by"
            value={by}
            change={(v) => setBy(v)}
            options={variables.map((v) => ({ value: v, words: v }))}
          />
        </label>
      </p>
      <Table
        label="Matches by group"
        rows={segments}
        id={(x) => x.value}
        dim={(x) => x.base < bases.small}
        columns={[
          { key: 'value', name: by, head: true, cell: (x) => x.value },
          {
            key: 'matches',
            name: 'matches',
            told: 'Answers of the focus that the rule finds there',
            figure: true,
            cell: (x) => count(x.answers),
          },
          {
            key: 'of',
            name: 'of',
            told: 'Answers of the focus there that say something: the base',
            figure: true,
            cell: (x) => <span className="text-soft">{count(x.base)}</span>,
          },
          {
            key: 'share',
            name: 'share',
            told: 'Matches of the base, unweighted',
            figure: true,
            cell: (x) => shareIn(x.base, x.share),
          },
          {
            key: 'bar',
            name: '',
            cell: (x) => <Bar share={x.base < bases.tiny || !most ? 0 : x.share / most} />,
          },
        ]}
      />
      <p className="text-sm text-soft">
        Unweighted. Values with a base under {bases.small} are dimmed, under {bases.tiny} get no share.
      </p>
    </>
  );
}
