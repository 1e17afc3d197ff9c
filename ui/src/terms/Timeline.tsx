import { useAddress } from '../lib/address';
import type { Timeline as Data } from '../lib/api';
import { count, percent } from '../lib/format';
import { useAsk } from '../lib/queries';
import { itemAt } from '../lib/required';
import { Failed } from '../parts/Asked';
import { Combobox } from '../parts/Combobox';
import { Files } from '../parts/Files';
import { Picture } from '../parts/Picture';
import { press } from '../parts/press';
import { Select } from '../parts/Select';
import { Empty, Skeleton } from '../parts/Text';
import { conditionOf, type Subject } from './subject';

type Unit = 'week' | 'month' | 'quarter' | 'year';

/** The settings of a time axis. */
export function TimeSettings({ axis }: { axis: Pick<Data, 'by' | 'dated' | 'unit' | 'choices'> }) {
  const { set } = useAddress();
  return (
    <>
      <label>
        over{' '}
        <Combobox
          label="over"
          value={axis.by}
          change={(v) => set({ over: v, now: '' }, true)}
          options={axis.choices.map((c) => ({ value: c.name, words: c.name }))}
        />
      </label>
      {axis.dated && (
        <label>
          by{' '}
          <Select
            label="by"
            value={axis.unit}
            change={(v) => set({ unit: v, now: '' }, true)}
            options={[...['week', 'month', 'quarter', 'year'].map((u) => ({ value: u, words: u }))]}
          />
        </label>
      )}
    </>
  );
}

/** What time is looked at, from the address line. */
export function useTime() {
  const { get, one } = useAddress();
  return { by: get('over') || undefined, unit: one<Unit>('unit', ['month', 'week', 'quarter', 'year']) };
}

const wide = 660;
const tall = 150;

/** A term's share over time; a bar shows its answers. */
export default function Timeline({ subject }: { subject: Subject }) {
  const { focusText, setPick, pickText } = useAddress();
  const time = useTime();
  const query = { focus: focusText, of: subject.of, text: [subject.text], ...time };
  const line = useAsk('timeline', query);
  if (line.error && !line.data) return <Failed error={line.error} again={() => line.refetch()} />;
  const t = line.data;
  if (!t) return <Skeleton lines={6} />;
  if (!t.by) return <Empty>This study has neither a date nor a wave. Say in Data which column is one.</Empty>;
  const points = itemAt(t.lines, 0).points;
  const most = Math.max(0.001, ...points.map((p, i) => (itemAt(t.periods, i).base >= t.tiny ? p.high : 0)));
  const bar = wide / Math.max(points.length, 1);
  const y = (share: number) => tall - (share / most) * (tall - 16);
  const every = Math.ceil(points.length / 12);
  return (
    <>
      <p className="text-soft text-sm flex items-baseline gap-2.5">
        <TimeSettings axis={t} />
        <span>
          share of the answers of each {t.dated ? t.unit : 'wave'}; lines are 95 % intervals (Wilson)
          {t.missing > 0 && `; ${count(t.missing)} answers without a date are left out`}
        </span>
      </p>
      <Picture name={`${subject.text} over time`} more={<Files of="timeline" query={query} />}>
        <svg
          data-drawing=""
          className="h-auto max-h-[27vh] w-full"
          viewBox={`0 0 ${wide} ${tall + 34}`}
          role="group"
          aria-label={`${subject.text} over time`}
        >
          {points.map((p, i) => {
            const period = itemAt(t.periods, i);
            const only = [conditionOf(subject), ...(period.only ?? [])];
            const show = () => setPick(only);
            const given = period.base >= t.tiny;
            return (
              <g
                key={period.name}
                {...press(
                  show,
                  `${period.name}: ${given ? percent(p.share) : 'no share'}, ${count(p.answers)} of ${count(period.base)} answers; show them`,
                  pickText === JSON.stringify(only),
                )}
                data-part="period"
                className={`period${period.base < t.small ? 'thin' : ''}`}
              >
                <rect x={i * bar} width={bar} y={0} height={tall + 34} fill="transparent" />
                {given && (
                  <>
                    <rect
                      data-bar=""
                      className="fill-moss/72"
                      x={i * bar + 2}
                      width={Math.max(bar - 4, 1)}
                      y={y(p.share)}
                      height={tall - y(p.share)}
                    />
                    <line
                      className="stroke-ink"
                      x1={(i + 0.5) * bar}
                      x2={(i + 0.5) * bar}
                      y1={y(p.high)}
                      y2={y(p.low)}
                    />
                  </>
                )}
                {bar > 30 && (
                  <text x={(i + 0.5) * bar} y={tall + 14} textAnchor="middle" fontSize={11.5}>
                    {given ? (100 * p.share).toFixed(1) : '–'}
                  </text>
                )}
                {i % every === 0 && (
                  <text className="fill-soft" x={(i + 0.5) * bar} y={tall + 29} textAnchor="middle" fontSize={11.5}>
                    {period.name}
                    {bar > 60 && ` (${count(period.base)})`}
                  </text>
                )}
                <title>{`${period.name}: ${given ? percent(p.share) : `base under ${t.tiny}`}, ${count(p.answers)} of ${count(period.base)} answers`}</title>
              </g>
            );
          })}
          <line className="stroke-line" x1={0} x2={wide} y1={tall} y2={tall} />
        </svg>
      </Picture>
    </>
  );
}
