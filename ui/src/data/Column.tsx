import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useAddress } from '../lib/address';
import { api, type Column, type Made, type Spec, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, dated, many } from '../lib/format';
import { itemAt, required } from '../lib/required';
import { Button } from '../parts/Button';
import { Collapsible } from '../parts/Collapsible';
import { bare, CellSettings, RoleSelect } from '../parts/ColumnSettings';
import { TextField } from '../parts/Text';
import { Heading } from '../parts/Tooltip';
import { Cut } from './Cut';
import { MakeVariable } from './MakeVariable';
import { Rename } from './Rename';

/** Everything about a column, and what can be made of it. */
export function ColumnBody({ column: c, total, made }: { column: Column; total: number; made: Made[] }) {
  const { editStudy } = useDesk();
  const [making, setMaking] = useState(false);
  const [renaming, setRenaming] = useState(false);
  const [cutting, setCutting] = useState(false);
  const charted = ['segment', 'several answers', 'wave', 'number', 'date'].includes(c.role);
  const words = [
    `${many(c.filled, 'cell')} filled`,
    c.declared && `${count(c.declared)} declared missing`,
    `${count(total - c.filled - c.declared)} blank`,
    many(c.distinct, 'different value'),
    c.words && `${c.words.shortest} to ${count(c.words.longest)} words, ${c.words.mean.toFixed(1)} on average`,
  ].filter(Boolean);
  return (
    <div data-part="stripbody" className="grid gap-2 pt-0.5 pb-3.5 pl-3">
      <p className="text-soft">{words.join(', ')}.</p>
      {c.figures && <Figures figures={c.figures} role={c.role} />}
      {c.points.map((p) => (
        <p data-part="odd" className="border-l-3 border-clay pl-2.5" key={p.text}>
          {p.text}
          {p.count > 0 && ` (${many(p.count, 'cell')})`}
          {p.values.length > 0 && `: ${p.values.join(', ')}${p.values.length === 8 ? ' …' : ''}`}.{' '}
          {p.mend && (
            <Button look="plain" onClick={() => editStudy({ kind: 'column', column: bare(required(p.mend)) })}>
              {mendWords(c, p.mend)}
            </Button>
          )}
        </p>
      ))}
      <div className="grid grid-cols-2 items-start gap-6 max-sm:grid-cols-1">
        <Values column={c} />
        <Settings key={JSON.stringify(bare(c))} column={c} />
      </div>
      {!making && (
        <p className="flex flex-wrap items-baseline gap-2.5">
          {charted && <Button onClick={() => setMaking(true)}>Make a variable of it…</Button>}
          <Button onClick={() => setRenaming(true)}>Rename…</Button>
          {c.role === 'open-ended' && <Button onClick={() => setCutting(true)}>Cut into parts…</Button>}
          {!!c.was?.length && <span className="text-sm text-soft">called {c.was.join(', ')} earlier</span>}
        </p>
      )}
      {renaming && <Rename column={c} close={() => setRenaming(false)} />}
      {cutting && <Cut column={c} close={() => setCutting(false)} />}
      {making && <MakeVariable column={c} made={made} close={() => setMaking(false)} />}
    </div>
  );
}

/** What the numbers are like, unweighted. */
function Figures({ figures: f, role }: { figures: NonNullable<Column['figures']>; role: Column['role'] }) {
  const short = (x: number) => x.toLocaleString('en-GB', { maximumFractionDigits: 3 });
  const all: [string, number, string][] = [
    ['mean', f.mean, 'The sum of the numbers by how many there are, unweighted'],
    ['median', f.median, 'Half of the numbers are below it, half above'],
    ['spread', f.spread, 'Standard deviation, with n − 1'],
    ['least', f.least, 'The smallest number'],
    ['most', f.most, 'The largest number'],
    ['sum', f.sum, role === 'weight' ? 'The sum of the weights: the weighted base of all respondents' : 'All added up'],
  ];
  return (
    <dl className="flex flex-wrap gap-x-5 gap-y-0.5" aria-label="What the numbers are like">
      {all.map(([name, x, told]) => (
        <div key={name} className="flex items-baseline gap-1.5">
          <dt className="text-sm text-soft">
            <Heading text={told}>{name}</Heading>
          </dt>
          <dd>{short(x)}</dd>
        </div>
      ))}
    </dl>
  );
}

function mendWords(now: Spec, mend: Spec) {
  if (mend.role !== now.role) return `read it as a ${mend.role}`;
  if (mend.unit !== now.unit) return `read “${mend.unit}” as a unit`;
  if (mend.comma !== now.comma) return 'read the comma as the decimal sign';
  if (mend.days !== now.days) return mend.days === 'dmy' ? 'read the day first' : 'read the month first';
  return 'declare them missing';
}

/** The most frequent values, or how numbers and dates fall. */
function Values({ column: c }: { column: Column }) {
  const usable = ['segment', 'several answers', 'wave', 'number'].includes(c.role);
  if (c.bins.length > 0) {
    const most = Math.max(1, ...c.bins.map((b) => b.count));
    return (
      <figure data-part="histogram">
        <div className="flex h-18.5 items-end gap-px border-b">
          {c.bins.map((b) => (
            <i
              key={b.from}
              className="flex-1 bg-moss/60 forced-color-adjust-none"
              style={{ height: `${b.count ? 3 + (70 * b.count) / most : 0}px` }}
              title={`${dated(b.from)} to ${dated(b.to)}: ${count(b.count)}`}
            />
          ))}
        </div>
        <figcaption className="flex items-baseline gap-2.5 justify-between text-soft text-sm">
          <span>{dated(itemAt(c.bins, 0).from)}</span>
          <span>the fullest has {count(most)}</span>
          <span>{dated(required(c.bins.at(-1)).to)}</span>
        </figcaption>
      </figure>
    );
  }
  if (!c.top.length) return <p className="truncate font-serif text-soft max-w-115">{c.samples.join('  ·  ')}</p>;
  return (
    <div>
      <ValueTable variable={usable ? c.name : undefined} values={c.top} />
      {c.distinct > c.top.length && <p className="text-soft">and {count(c.distinct - c.top.length)} values more</p>}
    </div>
  );
}

type ValueTableProps = { variable?: string; values: { value: string; count: number }[] };

/** Values with their counts; pressing one narrows the focus to it, if they are those of a variable. */
function ValueTable({ variable, values }: ValueTableProps) {
  const { narrow } = useAddress();
  const most = Math.max(1, ...values.map((v) => v.count));
  return (
    <table data-part="values" className="border-collapse justify-self-start [&_td]:py-0.5 [&_td]:pr-3">
      <tbody>
        {values.map((v) => (
          <tr key={v.value}>
            <td>
              {variable ? (
                <Button
                  look="plain"
                  title="narrow the focus to it"
                  onClick={() => narrow({ kind: 'variable', name: variable, op: '=', values: [v.value] })}
                >
                  {v.value}
                </Button>
              ) : (
                v.value
              )}
            </td>
            <td className="text-right">{count(v.count)}</td>
            <td className="w-40 min-w-22 relative" aria-hidden="true">
              <i
                className="block h-2.25 bg-moss/60 forced-color-adjust-none"
                style={{ width: `${(100 * v.count) / most}%` }}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** How the column is read; nothing changes until it is kept. */
function Settings({ column: c }: { column: Column }) {
  const { question, editStudy } = useDesk();
  const [draft, setDraft] = useState<Spec>(bare(c));
  const values = question.variables.find((v) => v.name === c.name)?.values ?? [];
  const change = (to: Partial<Spec>) => setDraft({ ...draft, ...to });
  const changed = JSON.stringify(bare(draft)) !== JSON.stringify(bare(c));
  const ordered =
    ['segment', 'several answers', 'wave'].includes(draft.role) && values.length > 1 && values.length <= 60;
  return (
    <fieldset className="grid min-w-0 gap-2 [&_legend]:pb-1 [&_legend]:font-semibold">
      <legend>Read as</legend>
      <div className="flex flex-wrap items-baseline gap-2.5">
        <RoleSelect column={draft} change={change} />
        <span className="inline-flex flex-wrap items-baseline gap-x-2.5 gap-y-1 text-sm text-soft">
          <CellSettings key={draft.role} column={draft} change={change} />
        </span>
      </div>
      <label className="flex items-baseline gap-1.5 text-sm text-soft">
        short label
        <TextField
          className="w-40 text-ink"
          maxLength={40}
          value={draft.label ?? ''}
          placeholder={c.name}
          onChange={(e) => change({ label: e.target.value })}
        />
      </label>
      {ordered && (
        <Collapsible words="Order of values in charts">
          <Order
            values={[...(draft.order ?? []), ...values.filter((v) => !draft.order?.includes(v))]}
            change={(order) => change({ order })}
          />
        </Collapsible>
      )}
      {changed && <Effect study={question.study.id} now={c} draft={bare(draft)} />}
      {changed && (
        <p className="flex items-baseline gap-2.5">
          <Button look="go" onClick={() => editStudy({ kind: 'column', column: bare(draft) })}>
            Keep
          </Button>
          <Button onClick={() => setDraft(bare(c))}>Cancel</Button>
          <span className="text-sm text-soft">
            Charts, rules and focuses follow at once. The cells stay as they came.
          </span>
        </p>
      )}
    </fieldset>
  );
}

/** What becomes of the counts if the column is read otherwise. */
function Effect({ study, now, draft }: { study: number; now: Column; draft: Spec }) {
  const tried = useQuery({
    queryKey: ['column', study, now.filled, draft],
    queryFn: ({ signal }) =>
      take(api.POST('/api/v1/studies/{study}/column/try', { params: { path: { study } }, body: draft, signal })),
    placeholderData: (old) => old,
  });
  const t = tried.data;
  if (tried.error) return <p className="text-clay">{tried.error.message}</p>;
  if (!t) return <p className="text-soft">Reading the cells so…</p>;
  if (t.problem) return <p className="text-clay">{t.problem}</p>;
  return (
    <p data-part="tried" aria-busy={tried.isPlaceholderData}>
      Read so, {many(t.filled, 'respondent has', 'respondents have')} a value, of {many(t.values, 'different one')}
      {t.figures && `, ${t.figures.mean.toLocaleString('en-GB', { maximumFractionDigits: 3 })} on average`}.
      {t.odd > 0 && (
        <span className="text-clay"> {many(t.odd, 'cell')} can’t be read so and would count as missing.</span>
      )}
    </p>
  );
}

/** A list put in order with two buttons a line. */
export function Order({ values, change }: { values: string[]; change: (values: string[]) => void }) {
  const move = (i: number, by: number) => {
    const next = [...values];
    const [v] = next.splice(i, 1);
    next.splice(i + by, 0, required(v));
    change(next);
  };
  return (
    <ol className="[&_li]:gap-1">
      {values.map((v, i) => (
        <li key={v} className="flex items-baseline gap-2.5">
          <Button look="plain" disabled={i === 0} aria-label={`${v} up`} onClick={() => move(i, -1)}>
            ↑
          </Button>
          <Button look="plain" disabled={i === values.length - 1} aria-label={`${v} down`} onClick={() => move(i, 1)}>
            ↓
          </Button>
          <span>{v}</span>
        </li>
      ))}
    </ol>
  );
}

/** A variable that was made of others: its values and its recipe. */
export function MadeBody({ made: d }: { made: Made }) {
  const { editStudy } = useDesk();
  return (
    <div data-part="stripbody" className="grid gap-2 pt-0.5 pb-3.5 pl-3">
      <p className="text-soft">
        {recipeInWords(d)} It follows when data is added.{' '}
        {d.missing > 0 && `${many(d.missing, 'respondent')} without a value.`}
      </p>
      <ValueTable variable={d.name} values={d.values} />
      <p>
        <Button onClick={() => editStudy({ kind: 'remove variable', name: d.name })}>Remove this variable</Button>
      </p>
    </div>
  );
}

function recipeInWords(d: Made) {
  switch (d.kind) {
    case 'groups':
      return `Groups of ${d.of[0]}: ${(d.groups ?? []).map((g) => `${g.name} (${g.values.join(', ')})`).join('; ')}${d.rest ? `; all others: ${d.rest}` : ''}.`;
    case 'bands':
      return d.equal
        ? `${d.of[0]} in ${d.equal} bands of about as many respondents each.`
        : `${d.of[0]} in bands that begin at ${(d.edges ?? []).join(', ')}.`;
    case 'periods':
      return `${d.of[0]} by ${d.period}.`;
    default:
      return `Each value of ${d.of[0]} with each of ${d.of[1]}.`;
  }
}
