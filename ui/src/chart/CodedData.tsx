import type { CodedQuery } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count } from '../lib/format';
import { useKept } from '../lib/kept';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Dialog } from '../parts/Dialog';
import { Popover } from '../parts/Popover';
import { Choice, optionsOf } from '../parts/Select';

const formats: Record<NonNullable<CodedQuery['format']>, string> = {
  csv: 'CSV',
  xlsx: 'XLSX',
  json: 'JSON',
  ndjson: 'NDJSON, an object a line',
  parquet: 'Parquet',
};
const shapes = {
  wide: 'a column per category',
  mentions: 'numbers of categories in columns',
  long: 'a row per answer and category',
};
const values = { digits: '1 and 0', yesno: 'yes and no', labels: 'the category’s name' };
const texts = {
  written: 'as written',
  read: 'as people read them, without tags',
  cleaned: 'as they were cleaned',
  none: 'left out',
};

const usual = {
  format: 'csv' as keyof typeof formats,
  shape: 'wide' as keyof typeof shapes,
  values: 'digits' as keyof typeof values,
  show: 'written' as keyof typeof texts,
  hand: true,
  masked: false,
  pack: false,
  /** Columns of the data that are left out. */
  without: [] as string[],
};

/** The coded data as a file: its format, its shape, and what comes along. */
export function CodedData({ close }: { close: () => void }) {
  const { question } = useDesk();
  const [set, put] = useKept('coded data', usual);
  const is = (to: Partial<typeof usual>) => put({ ...set, ...to });
  const columns = question.study.columns.map((c) => c.name);
  const chosen = columns.filter((c) => !set.without.includes(c));
  const query = new URLSearchParams({
    format: set.format,
    shape: set.shape,
    values: set.values,
    show: set.show,
    hand: String(set.hand),
    masked: String(set.masked),
    pack: String(set.pack),
    ...(chosen.length < columns.length ? { columns: JSON.stringify(chosen) } : {}),
  });
  return (
    <Dialog title="Coded data" close={close}>
      <div className="grid gap-3">
        <div className="flex flex-wrap gap-x-4 gap-y-2">
          <Choice label="file" value={set.format} change={(format) => is({ format })} options={optionsOf(formats)} />
          <Choice label="categories" value={set.shape} change={(shape) => is({ shape })} options={optionsOf(shapes)} />
          {set.shape === 'wide' && (
            <Choice
              label="cells hold"
              value={set.values}
              change={(v) => is({ values: v })}
              options={optionsOf(values)}
            />
          )}
          <Choice label="answers" value={set.show} change={(show) => is({ show })} options={optionsOf(texts)} />
        </div>
        <div>
          <Popover words={`${count(chosen.length)} of ${count(columns.length)} columns come along ▾`} label="Columns">
            <ul className="grid gap-1">
              {columns.map((c) => (
                <li key={c}>
                  <label>
                    <Checkbox
                      checked={chosen.includes(c)}
                      change={(on) => is({ without: on ? set.without.filter((x) => x !== c) : [...set.without, c] })}
                    />{' '}
                    {c}
                  </label>
                </li>
              ))}
            </ul>
          </Popover>
        </div>
        <label>
          <Checkbox checked={set.hand} change={(hand) => is({ hand })} /> with the decisions by hand (
          {count(question.byHand)}); else by rules alone
        </label>
        <label>
          <Checkbox checked={set.masked} change={(masked) => is({ masked })} /> personal data masked, even where the
          study does not mask it
        </label>
        <label>
          <Checkbox checked={set.pack} change={(pack) => is({ pack })} /> with a data dictionary and the list of
          categories beside it{set.format === 'csv' ? ', and metadata after CSVW' : ''} (ZIP)
        </label>
      </div>
      <p className="flex items-baseline gap-2.5 pt-3">
        <a
          className="cursor-pointer rounded-(--radius) border border-moss bg-moss px-2.5 py-0.75 text-onmoss"
          href={`/api/v1/questions/${question.id}/coded?${query}`}
          download
          onClick={close}
        >
          Download
        </a>
        <Button onClick={close}>Cancel</Button>
      </p>
    </Dialog>
  );
}
