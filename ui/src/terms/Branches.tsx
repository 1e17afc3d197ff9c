import { useEffect, useRef } from 'react';
import { useAddress } from '../lib/address';
import type { Branch } from '../lib/api';
import { count, many } from '../lib/format';
import { useKept } from '../lib/kept';
import { useAsk } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Checkbox } from '../parts/Checkbox';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { numbers, Select } from '../parts/Select';
import { Skeleton } from '../parts/Text';
import { branchCondition, type Subject } from './subject';

/** A branch with its place on the page. */
type Placed = { x: number; y: number; size: number; words: string[]; branch?: Branch; more?: string; from?: Placed };

const step = 132;
const height = 21;

/** Lays a tree out: a line for each leaf, a fork in the middle of what it leads to. */
function lay(b: Branch, words: string[], depth: number, top: number, most: number, out: Placed[]): [Placed, number] {
  const at: Placed = { x: depth * step, y: 0, size: 12.5 + 7 * Math.sqrt(b.answers / most), words, branch: b };
  let y = top;
  const ys: number[] = [];
  for (const kid of b.branches) {
    const [placed, next] = lay(kid, [...words, kid.word], depth + 1, y, most, out);
    placed.from = at;
    ys.push(placed.y);
    y = next;
  }
  if (b.branches.length && b.more) {
    const rest: Placed = { x: (depth + 1) * step, y, size: 12, words, more: `and ${count(b.more)} more`, from: at };
    out.push(rest);
    ys.push(y);
    y += height;
  }
  at.y = ys.length ? (itemAt(ys, 0) + required(ys.at(-1))) / 2 : y;
  if (!ys.length) y += height;
  out.push(at);
  return [at, y];
}

/** What leads to a term and what follows from it; choosing a branch narrows the focus to it. */
export default function Branches({ subject }: { subject: Subject }) {
  const { focusText, narrow } = useAddress();
  const [depth, setDepth] = useKept('branch words', 2);
  const [breadth, setBreadth] = useKept('branch forks', 8);
  const [telling, setTelling] = useKept('branches without stop words', false);
  const query = { focus: focusText, of: subject.of, text: subject.text, depth, breadth, telling };
  const room = useRef<HTMLDivElement>(null);
  const trees = useAsk('branches', query);
  // The middle of the tree is what one looks at first.
  useEffect(() => {
    const r = room.current;
    if (trees.data && r) r.scrollTo((r.scrollWidth - r.clientWidth) / 2, (r.scrollHeight - r.clientHeight) / 2);
  }, [trees.data]);
  if (trees.error && !trees.data) return <Failed error={trees.error} again={() => trees.refetch()} />;
  if (!trees.data) return <Skeleton lines={6} />;
  const { before, after } = trees.data;
  const most = Math.max(1, ...[...before.branches, ...after.branches].map((b) => b.answers));
  const sides = [before, after].map((root) => {
    const placed: Placed[] = [];
    const [, bottom] = lay(root, [], 0, 14, most, placed);
    return { placed, bottom };
  });
  const tall = Math.max(itemAt(sides, 0).bottom, itemAt(sides, 1).bottom, 60);
  const left = Math.max(30, 5 * Math.min(subject.text.length, 16) + 10); // half the room of the middle word
  const wide = 2 * (left + 30 + (depth - 1) * step + 105);
  const middle = wide / 2;
  // Both trees are drawn around one middle line.
  const shift = sides.map((s) => tall / 2 - required(s.placed.at(-1)).y);
  const low = Math.min(...sides.flatMap((s, i) => s.placed.map((p) => p.y + itemAt(shift, i))));
  const high = Math.max(...sides.flatMap((s, i) => s.placed.map((p) => p.y + itemAt(shift, i))));
  return (
    <>
      <p className="text-soft text-sm flex items-baseline gap-2.5">
        <span>{many(after.answers, 'answer')}; branches of two answers or more. A branch narrows the focus to it.</span>
        <label>
          words{' '}
          <Select
            label="words"
            value={String(depth)}
            change={(v) => setDepth(Number(v))}
            options={numbers([1, 2, 3, 4])}
          />
        </label>
        <label>
          branches{' '}
          <Select
            label="branches"
            value={String(breadth)}
            change={(v) => setBreadth(Number(v))}
            options={numbers([5, 8, 12, 20])}
          />
        </label>
        <label>
          <Checkbox checked={telling} change={setTelling} /> pass over stop words
        </label>
      </p>
      <Picture name={`Branches of ${subject.text}`}>
        <div
          className="min-h-0 overflow-auto"
          ref={room} // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
          tabIndex={0}
          role="region"
          aria-label="Branches"
        >
          <svg
            data-drawing=""
            className="mx-auto block"
            width={wide}
            height={high - low + 40}
            viewBox={`0 ${low - 20} ${wide} ${high - low + 40}`}
          >
            <title>{`What leads to ${subject.text} and follows from it`}</title>
            {sides.map((side, i) => {
              const sign = i ? 1 : -1;
              const x = (p: Placed) => middle + sign * (p.x ? p.x - step + left + 30 : left);
              const y = (p: Placed) => p.y + itemAt(shift, i);
              return (
                <g key={i ? 'after' : 'before'}>
                  {side.placed
                    .filter((p) => p.from)
                    .map((p) => {
                      const start = required(p.from).x
                        ? x(required(p.from)) + sign * width(required(p.from))
                        : middle + sign * left;
                      const end = x(p) - sign * 5;
                      const bend = (start + end) / 2;
                      return (
                        <path
                          key={`${p.words.join(' ')}${p.more}`}
                          className="fill-none stroke-moss/35"
                          strokeWidth={p.branch ? 1 + 4 * Math.sqrt(p.branch.answers / most) : 1}
                          d={`M${start},${y(required(p.from))} C${bend},${y(required(p.from))} ${bend},${y(p)} ${end},${y(p)}`}
                        />
                      );
                    })}
                  {side.placed
                    .filter((p) => p.from)
                    .map((p) => (
                      <Node
                        key={`${p.words.join(' ')}${p.more}`}
                        p={p}
                        x={x(p)}
                        y={y(p)}
                        right={sign < 0}
                        label={[
                          ...(i ? [subject.text] : []),
                          ...(i ? p.words : [...p.words].reverse()),
                          ...(i ? [] : [subject.text]),
                        ].join(' ')}
                        choose={() => narrow(branchCondition(subject, p.words, i === 1, telling))}
                      />
                    ))}
                </g>
              );
            })}
            <text
              className="font-serif text-[1.1875rem] font-semibold"
              x={middle}
              y={tall / 2}
              textAnchor="middle"
              dominantBaseline="middle"
            >
              {subject.text.length > 16 ? `${subject.text.slice(0, 15)}…` : subject.text}
            </text>
          </svg>
        </div>
      </Picture>
    </>
  );
}

/** How wide a word is drawn, about. */
const width = (p: Placed) =>
  p.branch ? p.branch.word.length * p.size * 0.5 + String(p.branch.answers).length * 6.5 + 16 : 0;

type NodeProps = { p: Placed; x: number; y: number; right: boolean; label: string; choose: () => void };

function Node({ p, x, y, right, label, choose }: NodeProps) {
  const anchor = right ? 'end' : 'start';
  if (!p.branch)
    return (
      <text
        data-part="twig more"
        className="fill-soft text-sm italic"
        x={x}
        y={y}
        textAnchor={anchor}
        dominantBaseline="middle"
      >
        {p.more}
      </text>
    );
  const figure = (
    <tspan className="fill-soft" fontSize={11.5}>
      {count(p.branch.answers)}
    </tspan>
  );
  return (
    <g
      {...press(
        choose,
        right
          ? `${count(p.branch.answers)} ${label}, answers; narrow the focus to them`
          : `${label} ${many(p.branch.answers, 'answer')}; narrow the focus to them`,
      )}
      data-part="twig"
      className="[&_text]:font-serif hover:[&_text]:underline"
    >
      <text x={x} y={y} fontSize={p.size} textAnchor={anchor} dominantBaseline="middle">
        {right && <>{figure} </>}
        {p.branch.word}
        {!right && <> {figure}</>}
      </text>
    </g>
  );
}
