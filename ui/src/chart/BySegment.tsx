import { useMemo, useState } from 'react';
import { useAddress } from '../lib/address';
import type { Chart, DesignOf } from '../lib/api';
import { useDesk } from '../lib/edits';
import { useAsk } from '../lib/queries';
import { Failed } from '../parts/Asked';
import { Button } from '../parts/Button';
import { Empty, Skeleton } from '../parts/Text';
import { Download } from './Download';
import { Drawn } from './Drawn';
import { forms, useDesign } from './design';
import { Grid } from './Grid';
import { MadeOf } from './MadeOf';
import { Titled } from './Titled';

/** Categories by segments: a figure as it will stand in the report, and what makes it up above it. */
export default function BySegment() {
  const { question } = useDesk();
  const { focus, get, one } = useAddress();
  const as = one('as', forms);
  const design = useDesign();
  const chart = useAsk('chart', design.query);
  const [opened, setOpened] = useState(false);
  const c = chart.data;
  const rows = useMemo(
    () => (c?.rows ?? []).map((r, i) => ({ r, i })).filter(({ r }) => opened || r.kind !== 'hidden'),
    [c, opened],
  );
  // What the columns are made of is said, even where the first that served was taken.
  const drawn = (of: Chart): DesignOf<'table'> => ({
    kind: 'table',
    focus,
    ...of.query,
    by: JSON.stringify(of.nests.map((n) => n.variables)),
    as,
    cells: get('cells') || undefined,
  });
  if (chart.error && !c)
    return (
      <>
        <Failed error={chart.error} again={() => chart.refetch()} />
        <p>
          <Button
            look="plain"
            onClick={() => design.set({ by: '', only: '', where: '', group: '', sort: '', pick: '' })}
          >
            Go back to the first segment and all categories
          </Button>
        </p>
      </>
    );
  if (!c) return <Skeleton lines={8} />;
  return (
    <div className="grid max-w-400 gap-3 pr-1" aria-busy={chart.isPlaceholderData}>
      <MadeOf c={c} design={design} />
      {chart.error && <Failed error={chart.error} again={() => chart.refetch()} />}
      <Titled drawn={drawn(c)} usual={titleOf(c)} under={question.name} ready={!!chart.now} notes={c.notes}>
        {(title) => (
          <>
            {c.segments.length === 0 && (
              <Empty>No column of this study is a segment. The figure shows the total only.</Empty>
            )}
            {rows.some(({ r }) => r.id) ? null : (
              <Empty>No category is a row: the frame is empty, or none was chosen above.</Empty>
            )}
            {as === 'bars' || as === 'table' ? (
              <Grid c={c} rows={rows} design={design} opened={opened} open={setOpened} />
            ) : (
              <Drawn c={c} rows={rows} as={as} title={title} />
            )}
          </>
        )}
      </Titled>
      <Download c={c} design={design} />
    </div>
  );
}

/** What a figure is called until it gets a name of its own. */
const titleOf = (c: Chart) =>
  `What was said${c.nests.length ? `, by ${c.nests.map((n) => n.label).join(' and by ')}` : ''}`;
