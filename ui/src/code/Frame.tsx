import { useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import type { FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { many, percent } from '../lib/format';
import { useKept } from '../lib/kept';
import { useCommands } from '../lib/keys';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button, Kbd, Link } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Stops } from '../parts/Stops';
import { Empty, Skeleton } from '../parts/Text';
import { forget, keptWriting, lastVisit } from '../rule/kept';
import { RuleText } from '../rule/Rule';
import { Bulk } from './Bulk';
import { arranged, ByFieldChoice, useByField } from './ByField';
import { Page } from './Category';
import { Fields } from './Fields';
import { NewCategory } from './NewCategory';
import { dropped, Outline, unfolded } from './Outline';
import { Replace } from './Replace';

/** The code frame as an outline; the open category is a page beside it. */
export default function Frame() {
  const { question, edit } = useDesk();
  const { focusText, get, pick, set, setPick } = useAddress();
  // The revision that the last visit ended with; it stays while this one lasts.
  const visit = useMemo(() => lastVisit(question.id, question.revision), [question.id, question.revision]);
  const [than, setThan] = useState('');
  const named = useAsk('states', {});
  const since = than || (visit < question.revision ? String(visit) : '');
  const frame = useAsk('frame', { focus: focusText, since });
  const draft = get('draft');
  const back = get('back');
  const navigate = useNavigate();
  const [adding, setAdding] = useState(false);
  const lines = frame.data?.categories ?? [];
  const fields = frame.data?.fields ?? [];
  const by = useByField(fields);
  const open = lines.find((l) => l.id === get('category')) ?? (draft ? undefined : lines[0]);
  const asked = get('category');
  const gone = asked && frame.now && !lines.some((l) => l.id === asked) ? asked : '';
  const unkept = gone ? keptWriting(question.id, gone) : undefined;
  // Keys may come faster than the page is drawn: they go on from the category that the last one meant.
  const meant = useRef(open?.id);
  useEffect(() => {
    meant.current = open?.id;
  }, [open?.id]);
  const show = (l: FrameLine | undefined) => {
    if (!l) return;
    meant.current = l.id;
    set({ category: l.id ?? '', pick: JSON.stringify([{ kind: 'category', id: l.id }]) }, true);
  };
  const list = useRef<HTMLDivElement>(null);
  const [folded, setFolded] = useKept<string[]>('folded nets', []);
  const fold = (net: string, to = !folded.includes(net)) =>
    setFolded(to ? [...folded.filter((f) => f !== net), net] : folded.filter((f) => f !== net));
  const [ticked, setTicked] = useState<string[]>([]);
  const tick = (id: string) => setTicked((now) => (now.includes(id) ? now.filter((t) => t !== id) : [...now, id]));
  const [replacing, setReplacing] = useState(false);
  const [fielding, setFielding] = useState(false);
  const inSight = by.order || by.having ? arranged(lines, by) : unfolded(lines, folded);
  const step = (by: number) => {
    const at = inSight.findIndex((l) => l.id === meant.current);
    show(inSight[Math.max(0, Math.min(inSight.length - 1, at + by))]);
  };
  // Arriving at a category shows its answers, unless others were picked; letting go of them stays possible.
  const arrived = useRef('');
  useEffect(() => {
    if (!open?.id || arrived.current === open.id) return;
    arrived.current = open.id;
    if (!pick.length) setPick([{ kind: 'category', id: open.id }]);
  }, [open?.id, pick.length, setPick]);
  /** Moves the open category among its siblings, into the one above it, or out of its net. */
  const move = (to: 'up' | 'down' | 'in' | 'out') => {
    if (!open?.id) return;
    const siblings = lines.filter((l) => l.up === open.up);
    const place = siblings.findIndex((l) => l.id === open.id);
    const before = siblings[place - 1];
    const after = siblings[place + 1];
    const drop =
      to === 'up' && before
        ? ({ id: before.id, where: 'before' } as const)
        : to === 'down' && after
          ? ({ id: after.id, where: 'after' } as const)
          : to === 'in' && before && !before.decisions
            ? ({ id: before.id, where: 'into' } as const)
            : to === 'out' && open.up
              ? ({ id: open.up, where: 'after' } as const)
              : undefined;
    if (drop) edit(dropped(lines, open.id, drop));
  };
  useCommands(
    'Code',
    [
      { key: 'ArrowDown', words: 'Next category', act: () => step(1), move: true },
      { key: 'ArrowUp', words: 'Category before', act: () => step(-1), move: true },
      { key: 'ArrowLeft', words: 'Fold the net', act: () => open?.net && fold(open.id, true), move: true },
      { key: 'ArrowRight', words: 'Unfold the net', act: () => open?.net && fold(open.id, false), move: true },
      { key: 'n', words: 'New category', act: () => setAdding(true) },
      {
        key: 't',
        words: 'Tick the category, to do something with several',
        act: () => tick(meant.current ?? ''),
        off: !open,
      },
      { key: '', words: 'Fields of the categories…', act: () => setFielding(true), off: !lines.length },
      {
        key: '',
        words: 'Tick all categories that are shown',
        act: () => setTicked(inSight.map((l) => l.id)),
        off: !lines.length,
      },
      { key: '', words: 'Find and replace in rules…', act: () => setReplacing(true), off: !lines.length },
      { key: 'Alt+ArrowUp', words: 'Move the category up', act: () => move('up'), off: !open },
      { key: 'Alt+ArrowDown', words: 'Move the category down', act: () => move('down'), off: !open },
      { key: '>', words: 'Move the category into the one above', act: () => move('in'), off: !open },
      { key: '<', words: 'Move the category out of its net', act: () => move('out'), off: !open },
    ],
    { list },
  );
  if (frame.error && !frame.data) return <Failed error={frame.error} again={() => frame.refetch()} />;
  if (!frame.data) return <Skeleton lines={6} />;
  const { base, coded } = frame.data;
  return (
    <div
      className="grid min-h-0 flex-1 grid-cols-[minmax(19rem,40%)_minmax(0,1fr)] gap-6 overflow-hidden
        max-sm:grid-cols-1 max-sm:overflow-auto 2xl:grid-cols-[26rem_minmax(0,60rem)] [&>section]:min-h-0
        [&>section]:overflow-y-auto"
      aria-busy={frame.isPlaceholderData}
    >
      <section className="border-r pt-0.75 pr-2.5 max-sm:border-r-0" aria-label="Code frame">
        <p className="text-sm text-soft pb-1.5 flex items-baseline gap-2.5 justify-between">
          <span>
            {many(lines.length, 'category', 'categories')} · {base ? percent(coded / base) : '–'} coded
          </span>
          <Button look="plain" onClick={() => setAdding(true)}>
            new <Kbd>n</Kbd>
          </Button>
        </p>
        {back && (
          <p className="pb-1.5">
            <Link to={`/q/${question.id}/review${back}`}>← back to what is left</Link>
          </p>
        )}
        <Bulk
          ticked={lines.filter((l) => ticked.includes(l.id ?? ''))}
          lines={lines}
          fields={fields}
          clear={() => setTicked([])}
        />
        {fields.length > 0 && <ByFieldChoice fields={fields} lines={lines} by={by} found={inSight.length} />}
        <Outline
          ticked={ticked}
          tick={tick}
          lines={lines}
          inSight={inSight}
          by={by}
          open={open}
          since={!!frame.data.since}
          show={show}
          list={list}
          folded={folded}
          fold={fold}
        />
        <p className="text-soft text-sm pt-3.5">
          <label>
            + and − since{' '}
            <Combobox
              label="changes since"
              value={than}
              change={(v) => setThan(v)}
              options={[
                { value: '', words: `the last visit${visit < question.revision ? ` (revision ${visit})` : ': none'}` },
                { value: '0', words: 'the beginning' },
                ...(named.data ?? []).map((n) => ({ value: `=${n.name}`, words: n.name })),
              ]}
            />
          </label>
          {since && !frame.data.since && ' can’t be shown here: cleaning was different then. See Revisions.'}
        </p>
        {lines.length > 0 && (
          <Stops>
            <p className="pt-1.5 text-sm">
              <label title="What was put on an answer by hand goes first, and may be several">
                <Checkbox
                  data-stop=""
                  checked={!!frame.data.single}
                  change={(on) => void edit({ kind: 'single', on })}
                />{' '}
                each answer in one category: the first that has it
              </label>
            </p>
            <p className="flex flex-wrap gap-x-4 gap-y-1 pt-1.5 text-sm">
              <Button data-stop="" look="plain" onClick={() => setFielding(true)}>
                Fields…
              </Button>
              <Button data-stop="" look="plain" onClick={() => setTicked(inSight.map((l) => l.id))}>
                Tick all shown
              </Button>
              <Button data-stop="" look="plain" onClick={() => setReplacing(true)}>
                Find and replace in rules…
              </Button>
            </p>
          </Stops>
        )}
      </section>
      {gone && unkept?.text.trim() ? (
        <section aria-label="A category that is gone" className="grid content-start gap-2.5">
          <h1>This category is gone</h1>
          <p>It was deleted in another window, or taken back. The rule you were writing in it is still here:</p>
          <p className="font-mono text-lg">
            <RuleText source={unkept.text} />
          </p>
          <p className="flex gap-2.5">
            <Button
              look="go"
              onClick={() => {
                forget(question.id, gone);
                set({ category: '', draft: unkept.text }, true);
              }}
            >
              Start a category with it
            </Button>
            <Button
              onClick={() => {
                forget(question.id, gone);
                set({ category: '' }, true);
              }}
            >
              Discard it
            </Button>
          </p>
        </section>
      ) : open ? (
        <Page key={open.id} line={open} lines={lines} fields={fields} write={get('write') || undefined} />
      ) : draft ? null : (
        <Empty>
          No category yet. Make one with n, select terms in Terms and press c, look at the proposals under Drafts, or
          bring a frame in under In and out.
        </Empty>
      )}
      {fielding && <Fields fields={fields} lines={lines} close={() => setFielding(false)} />}
      {replacing && <Replace of={[]} close={() => setReplacing(false)} />}
      {(adding || draft) && (
        <NewCategory
          lines={lines}
          draft={draft}
          called={get('called') || undefined}
          beside={open}
          close={(to) => {
            setAdding(false);
            // Who came from Review goes on there, unless the rule is to be looked at here first.
            if (back && !to.write) navigate(`/q/${question.id}/review${back}`);
            else set({ draft: '', called: '', ...to }, true);
          }}
        />
      )}
    </div>
  );
}
