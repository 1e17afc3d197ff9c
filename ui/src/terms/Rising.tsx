import { useAddress } from '../lib/address';
import type { Moving } from '../lib/api';
import { count, many, percent } from '../lib/format';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Combobox } from '../parts/Combobox';
import { Files } from '../parts/Files';
import { Stops } from '../parts/Stops';
import { Table } from '../parts/Table';
import { Empty, Skeleton } from '../parts/Text';
import { Beneath } from './Beneath';
import { Spread } from './Line';
import { TimeSettings, useTime } from './Timeline';

/** Terms that are said more in one period than in all before it. */
export default function Rising() {
  const { focusText, get, set, setPick, pick } = useAddress();
  const time = useTime();
  const now = get('now') || undefined;
  const query = { focus: focusText, ...time, now };
  const rising = useAsk('rising', query);
  if (rising.error && !rising.data) return <Failed error={rising.error} again={() => rising.refetch()} />;
  const r = rising.data;
  if (!r) return <Skeleton lines={6} />;
  if (!r.by) return <Empty>This study has neither a date nor a wave. Say in Data which column is one.</Empty>;
  const strip = { by: r.by, buckets: r.periods.map((p) => p.name), bases: r.periods.map((p) => p.base) };
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-2.5 pb-2">
        <TimeSettings axis={r} />
        <label>
          what moved in{' '}
          <Combobox
            label="what moved in"
            value={r.now}
            change={(v) => set({ now: v })}
            options={r.periods.slice(1).map((p) => ({ value: p.name, words: p.name }))}
          />
        </label>
        <span className="text-soft">
          {many(r.base, 'answer')} in it, {count(r.before)} before
        </span>
      </div>
      <Periods r={r} choose={(now) => set({ now })} />
      {r.terms.length + r.fell.length === 0 ? (
        <Empty>
          {r.before === 0
            ? 'Nothing lies before this period, so nothing can have risen.'
            : `None of ${count(r.tested)} terms is said more, or less, than before by more than chance. Choose any term in the ledger to see it over time.`}
        </Empty>
      ) : (
        <div data-part="risingv" className="min-h-0 overflow-y-auto flex-1">
          <Table
            label={`What moved in ${r.now}`}
            rows={[...r.terms.map((t) => ({ ...t, up: true })), ...r.fell.map((t) => ({ ...t, up: false }))]}
            id={(t) => `${t.up} ${t.label}`}
            on={(t) => pick.some((c) => c.kind === 'term' && c.text === t.label)}
            columns={[
              {
                key: 'term',
                name: 'term',
                head: true,
                cell: (t) => (
                  <Button look="plain" data-stop="" onClick={() => setPick([{ kind: 'term', text: t.label }])}>
                    {t.label}
                  </Button>
                ),
              },
              {
                key: 'moved',
                name: 'moved',
                told: 'Whether the share is higher or lower than in all periods before it',
                cell: (t) => <span className={t.up ? 'text-moss' : 'text-clay'}>{t.up ? '↑ rose' : '↓ fell'}</span>,
              },
              {
                key: 'now',
                name: r.now,
                told: 'Share of the answers in this period that hold it, and how many',
                figure: true,
                cell: (t) => (
                  <Button
                    look="plain"
                    data-stop=""
                    onClick={() =>
                      setPick([
                        { kind: 'term', text: t.label },
                        ...(r.periods.find((p) => p.name === r.now)?.only ?? []),
                      ])
                    }
                  >
                    {percent(t.share)} <small>({count(t.now)})</small>
                  </Button>
                ),
              },
              {
                key: 'past',
                name: 'before',
                told: 'Share of the answers in all periods before it',
                figure: true,
                cell: (t) => (
                  <>
                    {percent(t.past)} <small className="text-soft">({count(t.before)})</small>
                  </>
                ),
              },
              {
                key: 'p',
                name: 'p',
                told: 'Fisher’s exact test, one-sided; adjusted for the number of tests',
                figure: true,
                cell: (t) => (t.p < 0.001 ? '< 0.001' : t.p.toFixed(3)),
              },
              {
                key: 'strip',
                name: `share by ${r.dated ? r.unit : r.by}`,
                cell: (t) => <Spread counts={t.strip} strip={strip} />,
              },
            ]}
          />
        </div>
      )}
      {r.now && (
        <p className="text-sm text-soft">
          Each of {count(r.tested)} terms with five answers or more in {r.now}, or to be expected there, is tested
          against its own share in all periods before it (Fisher’s exact test, one-sided, up and down;
          Benjamini-Hochberg for all of these tests); those under 0.05 are listed.
          {r.missing > 0 && ` ${count(r.missing)} answers without a date are left out.`} Download:{' '}
          <Files of="rising" query={query} />
        </p>
      )}
      <Beneath />
    </>
  );
}

/** How much moved in each period, so that one sees at once which of them has something to say. */
function Periods({ r, choose }: { r: Moving; choose: (period: string) => void }) {
  const most = Math.max(1, ...r.each.map((e) => Math.max(e.rose, e.fell)));
  if (r.each.length < 3) return null;
  return (
    <>
      <p className="text-sm text-soft">
        Terms that rose (above the line) and fell (below) in each {r.dated ? r.unit : r.by}:
      </p>
      <Stops className="flex items-stretch gap-px overflow-x-auto pb-2" across>
        {r.each.map((e, i) => (
          <Button
            key={e.name}
            look="bare"
            data-stop=""
            data-part="moved"
            disabled={i === 0}
            aria-pressed={e.name === r.now}
            aria-label={`${e.name}: ${e.rose} rose, ${e.fell} fell`}
            title={`${e.name}: ${e.rose} rose, ${e.fell} fell`}
            className="min-w-8 flex-1 px-0.5 pt-1 text-center! aria-pressed:bg-mosspale forced-colors:aria-pressed:outline"
            onClick={() => choose(e.name)}
          >
            <span className="flex h-7 items-end justify-center">
              <i className="block w-3 bg-moss" style={{ height: `${(100 * e.rose) / most}%` }} />
            </span>
            <span className="flex h-7 items-start justify-center border-t">
              <i className="block w-3 bg-clay" style={{ height: `${(100 * e.fell) / most}%` }} />
            </span>
            <span className="block truncate text-xs text-soft">{e.name}</span>
          </Button>
        ))}
      </Stops>
    </>
  );
}
