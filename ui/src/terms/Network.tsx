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
import { useFocus } from '../lib/address';
import { api, type Network as Data, take } from '../lib/api';
import { useAsk, useQuestionId } from '../lib/desk';
import { count, many, tint } from '../lib/format';
import { Files } from '../parts/Files';
import { NumberField } from '../parts/NumberField';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
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
  const { focusText, params, set, setPick, pick } = useFocus();
  const navigate = useNavigate();
  const measure: Measure = (params.get('measure') as Measure) in measures ? (params.get('measure') as Measure) : 'g2';
  const least = Number(params.get('least') ?? measures[measure][1]);
  const links = Number(params.get('links') ?? 80);
  const both = Number(params.get('both') ?? 5);
  const [listing, setListing] = useState<string[]>();
  const query = { focus: focusText, measure, least, both, links };
  const net = useAsk(['network', query], (question) =>
    take(api.GET('/api/v1/questions/{question}/network', { params: { path: { question }, query } })),
  );
  const n = net.data;
  const opened = (terms: string[]) =>
    JSON.stringify(pick) === JSON.stringify(terms.map((text) => ({ kind: 'term', text })));
  const open = (terms: string[]) => setPick(terms.map((text) => ({ kind: 'term', text })));
  return (
    <div className="networkv">
      <div className="row wrap tools">
        <label>
          strongest by{' '}
          <select value={measure} onChange={(e) => set({ measure: e.target.value, least: '' })}>
            {Object.entries(measures).map(([k, [name]]) => (
              <option key={k} value={k}>
                {name}
              </option>
            ))}
          </select>
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
          <select value={links} onChange={(e) => set({ links: e.target.value }, true)}>
            {[40, 80, 120, 200, 400].map((x) => (
              <option key={x}>{x}</option>
            ))}
          </select>
        </label>
      </div>
      {net.error && <p className="bad">{net.error.message}</p>}
      {n && n.links.length === 0 && (
        <p className="empty">No two terms come together so strongly here. Lower what is asked for.</p>
      )}
      {n && n.links.length > 0 && (
        <div className="networkparts" aria-busy={net.isPlaceholderData}>
          <Picture name="Network of terms" more={<Files of="network" query={query} />}>
            <Drawing n={n} opened={opened} open={open} />
          </Picture>
          <section aria-label="Clusters" className="scroll">
            <p className="caption">come together</p>
            <ol className="plainlist">
              {n.clusters.map((c, i) => (
                <li key={c.terms.join()} className={`cluster ${tint(i)}`}>
                  <p>
                    <b className="key">{i + 1}</b> {c.terms.join(', ')}
                  </p>
                  <p className="soft small">
                    <button
                      type="button"
                      className="plain"
                      onClick={() => setPick([{ kind: 'words', text: together(c.terms) }])}
                    >
                      {many(c.answers, 'answer')} with two of them
                    </button>
                    , {count(c.uncoded)} not coded
                  </p>
                  <p className="small row">
                    <button
                      type="button"
                      className="plain"
                      onClick={() =>
                        navigate(
                          `/q/${id}/code?${new URLSearchParams({ ...(focusText ? { focus: focusText } : {}), draft: together(c.terms) })}`,
                        )
                      }
                    >
                      start a category
                    </button>
                    <button type="button" className="plain" onClick={() => setListing(c.terms)}>
                      make a list
                    </button>
                  </p>
                </li>
              ))}
            </ol>
          </section>
        </div>
      )}
      {n && (
        <p className="soft small">
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
      d.x = Math.min(wide - 24, Math.max(24, d.x!));
      d.y = Math.min(tall - 10, Math.max(14, d.y!));
    }
    return nodes;
  }, [n]);
  const strongest = Math.max(...n.links.map((l) => l.g2), 1);
  return (
    <svg className="drawing network" viewBox={`0 0 ${wide} ${tall}`} role="group" aria-label="Network of terms">
      {n.links.map((l) => {
        const [a, b] = [nodes[l.from]!, nodes[l.to]!];
        const both = [a.label, b.label];
        return (
          <g
            key={both.join()}
            {...press(() => open(both), `${both.join(' and ')}: ${many(l.both, 'answer')}; show them`, opened(both))}
            tabIndex={-1} // its two terms are in the order of tabs; all links would be far too many
            className="edge"
          >
            <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} strokeWidth={9} stroke="transparent" />
            <line
              className={a.cluster === b.cluster ? tint(a.cluster) : 'none'}
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
          className={`node ${tint(d.cluster)}`}
        >
          <circle cx={d.x} cy={d.y} r={d.r} />
          <text x={d.x} y={d.y! - d.r - 3} textAnchor="middle" fontSize={12.5}>
            {d.label}
          </text>
          <title>{`${d.label}: ${count(d.answers)} answers`}</title>
        </g>
      ))}
    </svg>
  );
}
