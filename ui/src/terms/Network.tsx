import {
  forceCollide,
  forceLink,
  forceManyBody,
  forceSimulation,
  forceX,
  forceY,
  type SimulationNodeDatum,
} from 'd3-force';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import type { Network as Data } from '../lib/api';
import { count, many, tint } from '../lib/format';
import { useAsk, useQuestionId } from '../lib/queries';
import { itemAt, required } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Files } from '../parts/Files';
import { NumberField } from '../parts/NumberField';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { numbers, Select } from '../parts/Select';
import { Stops } from '../parts/Stops';
import { Caption, Empty } from '../parts/Text';
import { ClassFilter, useWordClass } from './ClassFilter';
import { ListSheet } from './Sheets';

const measures = {
  g2: ['G²', 10.83],
  jaccard: ['Jaccard', 0.05],
  lift: ['lift', 2],
  pmi: ['PMI', 1],
  both: ['answers with both', 10],
} as const;
type Measure = keyof typeof measures;

/** Terms that come together, drawn as a network; what clusters can become a category or a list. */
export default function Network() {
  const id = useQuestionId();
  const { focusText, one, number, set, setPick, pickText } = useAddress();
  const navigate = useNavigate();
  const measure = one('measure', Object.keys(measures) as Measure[]);
  const least = number('least', measures[measure][1]);
  const links = number('links', 80, 1, 1000);
  const both = number('both', 5, 1);
  const [listing, setListing] = useState<string[]>();
  const wordClass = useWordClass();
  const query = { focus: focusText, measure, least, both, links, class: wordClass };
  const net = useAsk('network', query);
  const n = net.data;
  const opened = (terms: string[]) => pickText === JSON.stringify(terms.map((text) => ({ kind: 'term', text })));
  const open = (terms: string[]) => setPick(terms.map((text) => ({ kind: 'term', text })));
  return (
    <div className="min-h-0 flex-1 overflow-auto pt-0.5 pr-2">
      <div className="flex flex-wrap items-baseline gap-2.5 pb-2">
        <label>
          strongest by{' '}
          <Combobox
            label="strongest by"
            value={measure}
            change={(v) => set({ measure: v, least: '' })}
            options={Object.entries(measures).map(([k, [name]]) => ({ value: k, words: name }))}
          />
        </label>
        <NumberField
          label="at least"
          value={least}
          step={measure === 'jaccard' ? 0.01 : 1}
          change={(n) => set({ least: String(n) }, true)}
        />
        <NumberField
          label="in answers"
          value={both}
          least={1}
          change={(n) => set({ both: String(Math.floor(n)) }, true)}
        />
        <label>
          links{' '}
          <Select
            label="links"
            value={String(links)}
            change={(v) => set({ links: v }, true)}
            options={numbers([40, 80, 120, 200, 400])}
          />
        </label>
        <ClassFilter />
      </div>
      {net.error && <Failed error={net.error} again={() => net.refetch()} />}
      {n && n.links.length === 0 && (
        <Empty>No two terms come together so strongly here. Lower what is asked for.</Empty>
      )}
      {n && n.links.length > 0 && (
        <div
          className="grid grid-cols-[minmax(0,1fr)_13rem] gap-4.5 [&>section]:max-h-[64vh]"
          aria-busy={net.isPlaceholderData}
        >
          <Picture name="Network of terms" more={<Files of="network" query={query} />}>
            <Drawing n={n} opened={opened} open={open} />
          </Picture>
          <section aria-label="Clusters" className="min-h-0 overflow-y-auto">
            <Caption>come together</Caption>
            <Stops as="ol">
              {n.clusters.map((c, i) => (
                <li
                  key={c.terms.join()}
                  data-part="cluster"
                  className={`border-t border-hair pt-1.25 pb-1.5 ${tint(i)}`}
                >
                  <p>
                    <b className="text-xs font-bold text-(--c)">{i + 1}</b> {c.terms.join(', ')}
                  </p>
                  <p className="text-sm text-soft">
                    <Button
                      look="plain"
                      data-stop=""
                      onClick={() => setPick([{ kind: 'words', text: together(c.terms) }])}
                    >
                      {many(c.answers, 'answer')} with two of them
                    </Button>
                    , {count(c.uncoded)} not coded
                  </p>
                  <p className="text-sm flex items-baseline gap-2.5">
                    <Button
                      look="plain"
                      data-stop=""
                      onClick={() =>
                        navigate(
                          `/q/${id}/code?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), draft: together(c.terms) })}`,
                        )
                      }
                    >
                      Start a category
                    </Button>
                    <Button look="plain" data-stop="" onClick={() => setListing(c.terms)}>
                      Make a list
                    </Button>
                  </p>
                </li>
              ))}
            </Stops>
          </section>
        </div>
      )}
      {n && (
        <p className="text-sm text-soft">
          Links among the {count(n.looked)} most frequent terms of {many(n.base, 'answer')}
          {n.more > 0 && `; ${many(n.more, 'weaker link')} over the threshold not drawn`}. Only terms that meet more
          often than by chance are linked. Clusters: modularity by the Louvain method.
        </p>
      )}
      {listing && <ListSheet terms={listing} close={() => setListing(undefined)} done={() => {}} />}
    </div>
  );
}

/** The rule for answers with two terms of a cluster. */
const together = (terms: string[]) => (terms.length === 2 ? terms.join(' + ') : `2 of (${terms.join(' / ')})`);

type Node = SimulationNodeDatum & Data['nodes'][number] & { r: number };

const wide = 470;
const tall = 500;

function Drawing({ n, opened, open }: { n: Data; opened: (t: string[]) => boolean; open: (t: string[]) => void }) {
  const nodes = useMemo(() => {
    const most = Math.max(1, ...n.nodes.map((x) => x.answers));
    const nodes: Node[] = n.nodes.map((x, i) => ({
      ...x,
      r: 3 + 9 * Math.sqrt(x.answers / most),
      // Clusters begin apart, so that they stay apart; the same data gives the same drawing.
      x: wide / 2 + 130 * Math.cos((2 * Math.PI * x.cluster) / n.clusters.length) + (i % 7),
      y: tall / 2 + 130 * Math.sin((2 * Math.PI * x.cluster) / n.clusters.length) + (i % 5),
    }));
    const edges = n.links.map((l) => ({ source: l.from, target: l.to }));
    forceSimulation(nodes)
      .force('link', forceLink(edges).distance(34).strength(0.35))
      .force('charge', forceManyBody().strength(-70).distanceMax(180))
      .force(
        'room',
        forceCollide<Node>((d) => Math.max(d.r + 5, d.label.length * 2.6 + 4)),
      )
      .force('x', forceX(wide / 2).strength(0.07))
      .force('y', forceY(tall / 2).strength(0.06))
      .stop()
      .tick(320);
    for (const d of nodes) {
      d.x = Math.min(wide - 24, Math.max(24, required(d.x)));
      d.y = Math.min(tall - 10, Math.max(14, required(d.y)));
    }
    return nodes;
  }, [n]);
  const strongest = Math.max(...n.links.map((l) => l.g2), 1);
  return (
    <svg
      data-drawing="network"
      className="h-auto w-full max-w-260"
      viewBox={`0 0 ${wide} ${tall}`}
      role="group"
      aria-label="Network of terms"
    >
      {n.links.map((l) => {
        const [a, b] = [itemAt(nodes, l.from), itemAt(nodes, l.to)];
        const both = [a.label, b.label];
        return (
          <g
            key={both.join()}
            {...press(() => open(both), `${both.join(' and ')}: ${many(l.both, 'answer')}; show them`, opened(both))}
            tabIndex={-1} // its two terms are in the order of tabs; all links would be far too many
            className="[&_line:last-of-type]:stroke-(--c) [&_line:last-of-type]:opacity-40
              hover:[&_line:last-of-type]:opacity-100 aria-pressed:[&_line:last-of-type]:opacity-100"
          >
            <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} strokeWidth={9} stroke="transparent" />
            <line
              className={a.cluster === b.cluster ? tint(a.cluster) : '[--c:var(--color-soft)]'}
              x1={a.x}
              y1={a.y}
              x2={b.x}
              y2={b.y}
              strokeWidth={0.8 + 3 * Math.sqrt(l.g2 / strongest)}
            />
            <title>{`${both.join(' + ')}: ${count(l.both)} answers, G² ${l.g2.toFixed(1)}, lift ${l.lift.toFixed(1)}`}</title>
          </g>
        );
      })}
      {nodes.map((d) => (
        <g
          key={d.label}
          {...press(() => open([d.label]), `${d.label}: ${many(d.answers, 'answer')}; show them`, opened([d.label]))}
          data-part="node"
          className={`[&_circle]:fill-(--c) hover:[&_text]:underline ${tint(d.cluster)}`}
        >
          <circle cx={d.x} cy={d.y} r={d.r} />
          <text x={d.x} y={required(d.y) - d.r - 3} textAnchor="middle" fontSize={12.5}>
            {d.label}
          </text>
          <title>{`${d.label}: ${count(d.answers)} answers`}</title>
        </g>
      ))}
    </svg>
  );
}
