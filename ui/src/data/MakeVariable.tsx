import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { api, type Column, type Derived, type Made, take } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { itemAt } from '../lib/required';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Select } from '../parts/Select';
import { field, TextField } from '../parts/Text';
import { ToggleGroup } from '../parts/ToggleGroup';

type Way = Derived['kind'];

const named: Record<Way, string> = {
  groups: 'group its values',
  bands: 'put it in bands',
  periods: 'by weekday, month …',
  pairs: 'pair it with another',
};

const waysOf = (c: Column): Way[] => {
  switch (c.role) {
    case 'number':
      return ['bands', 'groups', 'pairs'];
    case 'date':
      return ['periods', 'bands'];
    default:
      return ['groups', 'pairs'];
  }
};

/** A variable made of a column, with the respondents in each value shown while it is made. */
export function MakeVariable({ column: c, made, close }: { column: Column; made: Made[]; close: () => void }) {
  const { question, editStudy } = useDesk();
  const ways = waysOf(c);
  const [way, setWay] = useState<Way>(itemAt(ways, 0));
  const [recipe, setRecipe] = useState<Partial<Derived>>({});
  const [name, setName] = useState('');
  const suggested = nameOf(c, way, recipe);
  const derived: Derived = { ...recipe, kind: way, name: name.trim() || suggested, of: [c.name, ...(recipe.of ?? [])] };
  const study = question.study.id;
  const tried = useQuery({
    queryKey: ['derived', study, question.study.revision, derived],
    queryFn: () =>
      take(api.POST('/api/v1/studies/{study}/derived/try', { params: { path: { study } }, body: derived })),
    enabled: way !== 'pairs' || derived.of.length === 2,
    placeholderData: (old) => old,
  });
  const change = (to: Partial<Derived>) => setRecipe({ ...recipe, ...to });
  const keep = async () => {
    if (await editStudy({ kind: 'derive', derived })) close();
  };
  const problem = tried.error?.message ?? tried.data?.problem;
  const place = useRef<HTMLFieldSetElement>(null);
  useEffect(() => {
    place.current?.scrollIntoView({ block: 'nearest' });
  }, []);
  return (
    <fieldset
      data-part="making"
      className="grid min-w-0 gap-2 border-l-3 border-moss pl-3 [&_legend]:pb-1 [&_legend]:font-semibold"
      ref={place}
    >
      <legend>Make a variable of {c.name}</legend>
      {ways.length > 1 && (
        <ToggleGroup
          label="How"
          value={way}
          options={ways.map((w) => ({ value: w, words: named[w] }))}
          change={(w) => {
            setWay(w);
            setRecipe({});
          }}
        />
      )}
      <div className="grid grid-cols-2 items-start gap-6 max-sm:grid-cols-1">
        <div>
          {way === 'groups' && <Groups column={c} recipe={recipe} change={change} />}
          {way === 'bands' && c.role === 'date' && <Stretches recipe={recipe} change={change} />}
          {way === 'bands' && c.role !== 'date' && <Bands column={c} recipe={recipe} change={change} />}
          {way === 'periods' && (
            <label>
              by{' '}
              <Select
                label="period"
                value={recipe.period ?? ''}
                change={(v) => change({ period: v as Derived['period'] })}
                options={[
                  { value: '', words: 'choose' },
                  { value: 'hour', words: 'hour of the day' },
                  { value: 'weekday', words: 'day of the week' },
                  { value: 'week', words: 'week (ISO)' },
                  { value: 'month', words: 'month' },
                  { value: 'quarter', words: 'quarter' },
                  { value: 'year', words: 'year' },
                ]}
              />
            </label>
          )}
          {way === 'pairs' && (
            <label>
              with{' '}
              <Combobox
                label="the other variable"
                value={recipe.of?.[0] ?? ''}
                change={(v) => change({ of: [v] })}
                options={[
                  { value: '', words: 'choose' },
                  ...question.variables
                    .filter((v) => v.name !== c.name && v.values.length > 0 && v.values.length <= 60)
                    .map((v) => ({ value: v.name, words: v.name })),
                ]}
              />
            </label>
          )}
        </div>
        <div aria-live="polite">
          {problem ? (
            <p className="text-soft">{problem}.</p>
          ) : (
            tried.data && (
              <>
                <table data-part="values" className="border-collapse justify-self-start [&_td]:py-0.5 [&_td]:pr-3">
                  <tbody>
                    {tried.data.values.slice(0, 14).map((v) => (
                      <tr key={v.value}>
                        <td>{v.value}</td>
                        <td className="text-right">{count(v.count)}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                <p className="text-soft">
                  {many(tried.data.values.length, 'value')}
                  {tried.data.missing > 0 && `, ${many(tried.data.missing, 'respondent')} without one`}
                </p>
              </>
            )
          )}
        </div>
      </div>
      <p className="flex flex-wrap items-baseline gap-2.5">
        <label>
          called{' '}
          <TextField
            aria-label="name of the variable"
            value={name}
            placeholder={suggested}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <Button look="go" disabled={!tried.data || !!problem} onClick={keep}>
          {made.some((m) => m.name === derived.name) ? 'Replace the one of that name' : 'Make the variable'}
        </Button>
        <Button onClick={close}>Cancel</Button>
      </p>
    </fieldset>
  );
}

function nameOf(c: Column, way: Way, recipe: Partial<Derived>) {
  switch (way) {
    case 'groups':
      return `${c.name}, grouped`;
    case 'bands':
      return `${c.name}, in bands`;
    case 'periods':
      return `${recipe.period ?? 'period'} of ${c.name}`;
    default:
      return `${c.name} and ${recipe.of?.[0] ?? '…'}`;
  }
}

type PartProps = { recipe: Partial<Derived>; change: (to: Partial<Derived>) => void };

/** How many values are listed to be grouped. */
const mostGrouped = 200;

/** Each value with the name that it counts under: the same name twice makes a group. */
function Groups({ column: c, recipe, change }: PartProps & { column: Column }) {
  const { question } = useDesk();
  const study = question.study.id;
  const all = useQuery({
    queryKey: ['derived', study, question.study.revision, 'values', c.name],
    queryFn: () =>
      take(
        api.POST('/api/v1/studies/{study}/derived/try', {
          params: { path: { study } },
          body: { kind: 'groups', name: 'values', of: [c.name] },
        }),
      ),
  });
  const values = (all.data?.values ?? []).slice(0, mostGrouped);
  const more = (all.data?.values.length ?? 0) - values.length;
  const [under, setUnder] = useState<Record<string, string>>({});
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [together, setTogether] = useState('');
  const set = (names: Record<string, string>) => {
    const next = { ...under, ...names };
    setUnder(next);
    const groups: { name: string; values: string[] }[] = [];
    for (const v of values) {
      const name = next[v.value]?.trim();
      if (!name) continue;
      const group = groups.find((g) => g.name === name);
      if (group) group.values.push(v.value);
      else groups.push({ name, values: [v.value] });
    }
    change({ groups });
  };
  return (
    <>
      <p className="text-sm text-soft">
        Name what counts together; groups stand in charts in the order in which they begin here.
      </p>
      {ticked.size > 0 && (
        <p className="flex flex-wrap items-baseline gap-2.5">
          <label>
            {many(ticked.size, 'ticked value')} count{ticked.size === 1 ? 's' : ''} as{' '}
            <TextField
              aria-label="the ticked values count as"
              value={together}
              onChange={(e) => setTogether(e.target.value)}
            />
          </label>
          <Button
            disabled={!together.trim()}
            onClick={() => {
              set(Object.fromEntries([...ticked].map((v) => [v, together.trim()])));
              setTicked(new Set());
              setTogether('');
            }}
          >
            Group them
          </Button>
        </p>
      )}
      <table data-part="values" className="border-collapse justify-self-start [&_td]:py-0.5 [&_td]:pr-3 [&_input]:w-44">
        <tbody>
          {values.map((v) => (
            <tr key={v.value}>
              <td>
                <label>
                  <Checkbox
                    checked={ticked.has(v.value)}
                    change={(on) => {
                      const next = new Set(ticked);
                      if (on) next.add(v.value);
                      else next.delete(v.value);
                      setTicked(next);
                    }}
                  />{' '}
                  {v.value}
                </label>
              </td>
              <td className="text-right text-soft">{count(v.count)}</td>
              <td>
                counts as{' '}
                <TextField
                  aria-label={`${v.value} counts as`}
                  placeholder={recipe.rest || v.value}
                  value={under[v.value] ?? ''}
                  onChange={(e) => set({ [v.value]: e.target.value })}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {more > 0 && (
        <p className="text-sm text-soft">
          The first {mostGrouped} are listed; the {count(more)} others count as “all others” say.
        </p>
      )}
      <p>
        <label>
          all others{' '}
          <TextField
            aria-label="all other values count as"
            placeholder="keep their names"
            value={recipe.rest ?? ''}
            onChange={(e) => change({ rest: e.target.value })}
          />
        </label>
      </p>
    </>
  );
}

/** Whether the numbers are those of a scale from 0 to 10. */
const zeroToTen = (c: Column) => !!c.figures && c.figures.least >= 0 && c.figures.most === 10 && c.distinct <= 11;

/** Stretches of time by the days on which they begin: before and after a date is one day. */
function Stretches({ recipe, change }: PartProps) {
  const days = [...(recipe.dates ?? []), ''];
  return (
    <div className="grid gap-1">
      <p className="text-sm text-soft">
        A new stretch begins on each of these days; one day makes “before” and “from”.
      </p>
      {days.map((day, i) => (
        <TextField
          key={i}
          type="date"
          aria-label={`day ${i + 1}`}
          value={day}
          onChange={(e) => {
            const next = [...days];
            next[i] = e.target.value;
            change({ dates: next.filter(Boolean).sort() });
          }}
        />
      ))}
    </div>
  );
}

/** Bands by their edges, by equal counts, or as recommendation scores are usually told apart. */
function Bands({ column: c, recipe, change }: PartProps & { column: Column }) {
  const [edges, setEdges] = useState('');
  return (
    <div className="grid gap-0.75 text-sm text-soft *:text-base *:text-ink">
      <label>
        bands begin at{' '}
        <TextField
          aria-label="where bands begin"
          placeholder="7, 9"
          value={edges}
          onChange={(e) => {
            setEdges(e.target.value);
            const numbers = e.target.value
              .split(/[,;\s]+/)
              .filter(Boolean)
              .map(Number);
            change({ edges: numbers.filter((n) => !Number.isNaN(n)), equal: undefined, names: undefined });
          }}
        />
      </label>
      <label>
        or{' '}
        <input
          className={field({ className: 'w-[4.8em]' })}
          type="number"
          min={2}
          max={20}
          aria-label="bands of equal counts"
          value={recipe.equal ?? ''}
          onChange={(e) => {
            setEdges('');
            change({ equal: Number(e.target.value) || undefined, edges: undefined, names: undefined });
          }}
        />{' '}
        bands with about as many respondents each
      </label>
      {zeroToTen(c) && (
        <span>
          or{' '}
          <Button
            onClick={() => {
              setEdges('7, 9');
              change({ edges: [7, 9], names: ['0 to 6', '7 to 8', '9 to 10'], equal: undefined });
            }}
          >
            0 to 6 / 7 to 8 / 9 to 10
          </Button>{' '}
          as for recommendations
        </span>
      )}
    </div>
  );
}
