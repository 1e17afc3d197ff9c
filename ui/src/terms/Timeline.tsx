import { useFocus } from '../lib/address';
import { api, type Timeline as Data, take } from '../lib/api';
import { useAsk } from '../lib/desk';
import { count, percent } from '../lib/format';
import { Files } from '../parts/Files';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { conditionOf, type Subject } from './subject';

type Unit = 'week' | 'month' | 'quarter' | 'year';

/** The settings of a time axis. */
export function TimeSettings({ axis }: { axis: Pick<Data, 'by' | 'dated' | 'unit' | 'choices'> }) {
  const { set } = useFocus();
  return (
    <>
      <label>
        over{' '}
        <select value={axis.by} onChange={(e) => set({ over: e.target.value, now: '' }, true)}>
          {axis.choices.map((c) => (
            <option key={c.name} value={c.name}>
              {c.name}
            </option>
          ))}
        </select>
      </label>
      {axis.dated && (
        <label>
          by{' '}
          <select value={axis.unit} onChange={(e) => set({ unit: e.target.value, now: '' }, true)}>
            {['week', 'month', 'quarter', 'year'].map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
      )}
    </>
  );
}

/** What time is looked at, from the address line. */
export function useTime() {
  const { params } = useFocus();
  return { by: params.get('over') ?? undefined, unit: (params.get('unit') as Unit) ?? 'month' };
}

const wide = 660;
const tall = 150;

/** A term's share over time; a bar shows its answers. */
export default function Timeline({ subject }: { subject: Subject }) {
  const { focusText, setPick, pick } = useFocus();
  const time = useTime();
  const query = { focus: focusText, of: subject.of, text: [subject.text], ...time };
  const line = useAsk(['timeline', query], (question) =>
    take(api.GET('/api/v1/questions/{question}/timeline', { params: { path: { question }, query } })),
  );
  if (line.error) return <p className="bad">{line.error.message}</p>;
  const t = line.data;
  if (!t) return <p className="ghost">&nbsp;</p>;
  if (!t.by) return <p className="empty">This study has neither a date nor a wave. Say in Data which column is one.</p>;
  const points = t.lines[0]!.points;
  const most = Math.max(0.001, ...points.map((p, i) => (t.periods[i]!.base >= t.tiny ? p.high : 0)));
  const bar = wide / Math.max(points.length, 1);
  const y = (share: number) => tall - (share / most) * (tall - 16);
  const every = Math.ceil(points.length / 12);
  return (
    <>
      <p className="soft small row">
        <TimeSettings axis={t} />
        <span>
          share of the answers of each {t.dated ? t.unit : 'wave'}; lines are 95 % intervals (Wilson)
          {t.missing > 0 && `; ${count(t.missing)} answers without a date are left out`}
        </span>
      </p>
      <Picture name={`${subject.text} over time`} more={<Files of="timeline" query={query} />}>
        <svg
          className="timeline"
          viewBox={`0 0 ${wide} ${tall + 34}`}
          role="group"
          aria-label={`${subject.text} over time`}
        >
          {points.map((p, i) => {
            const period = t.periods[i]!;
            const only = [conditionOf(subject), ...(period.only ?? [])];
            const show = () => setPick(only);
            const given = period.base >= t.tiny;
            return (
              <g
                key={period.name}
                {...press(
                  show,
                  `${period.name}: ${given ? percent(p.share) : 'no share'}, ${count(p.answers)} of ${count(period.base)} answers; show them`,
                  JSON.stringify(pick) === JSON.stringify(only),
                )}
                className={`period${period.base < t.small ? ' thin' : ''}`}
              >
                <rect x={i * bar} width={bar} y={0} height={tall + 34} fill="transparent" />
                {given && (
                  <>
                    <rect
                      className="barmark"
                      x={i * bar + 2}
                      width={Math.max(bar - 4, 1)}
                      y={y(p.share)}
                      height={tall - y(p.share)}
                    />
                    <line className="whisker" x1={(i + 0.5) * bar} x2={(i + 0.5) * bar} y1={y(p.high)} y2={y(p.low)} />
                  </>
                )}
                {bar > 30 && (
                  <text x={(i + 0.5) * bar} y={tall + 14} textAnchor="middle" fontSize={11.5}>
                    {given ? (100 * p.share).toFixed(1) : '–'}
                  </text>
                )}
                {i % every === 0 && (
                  <text className="axis" x={(i + 0.5) * bar} y={tall + 29} textAnchor="middle" fontSize={11.5}>
                    {period.name}
                    {bar > 60 && ` (${count(period.base)})`}
                  </text>
                )}
                <title>{`${period.name}: ${given ? percent(p.share) : `base under ${t.tiny}`}, ${count(p.answers)} of ${count(period.base)} answers`}</title>
              </g>
            );
          })}
          <line className="ground" x1={0} x2={wide} y1={tall} y2={tall} />
        </svg>
      </Picture>
    </>
  );
}
