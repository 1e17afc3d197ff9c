import type { Notes } from '../lib/api';
import { count, many } from '../lib/format';
import { required } from '../lib/required';
import { Button } from './Button';

const rowsAt = (at: number[] = [], n: number) => `${at.slice(0, 8).join(', ')}${n > 8 ? ' …' : ''}`;

/** What was odd about the rows, in words; byLines offers to read each line as a row. */
export function Odd({ notes, byLines }: { notes: Notes; byLines?: () => void }) {
  const swallowed = notes.swallowed ?? 0;
  const unvalued = notes.unvalued ?? 0;
  const words = [
    unvalued &&
      `${many(unvalued, 'formula has', 'formulas have')} no stored value and would be blank: ${(notes.unvaluedAt ?? []).slice(0, 8).join(', ')}${unvalued > 8 ? ' …' : ''}. Open the workbook in a spreadsheet and save it once, then choose it again.`,
    notes.short && `${many(notes.short, 'row')} had too few cells: the missing ones are blank.`,
    notes.long && `${many(notes.long, 'row')} had too many cells: the last cell holds the rest.`,
    (notes.short || notes.long) && notes.places?.length && `Look at row ${notes.places.slice(0, 8).join(', ')}.`,
    notes.blank && `${many(notes.blank, 'blank row or line', 'blank rows or lines')} passed over.`,
    ...(notes.renamed ?? []).slice(0, 4).map((r) => `${required(r[0]).toUpperCase()}${r.slice(1)}.`),
    (notes.renamed?.length ?? 0) > 4 &&
      `And ${count(required(notes.renamed).length - 4)} more columns were given a name.`,
  ].filter(Boolean);
  if (!words.length && !swallowed) return null;
  return (
    <div data-part="odd" className="grid gap-1 border-l-3 border-clay pl-2.5">
      {swallowed > 0 && (
        <p>
          In {swallowed === 1 ? 'row' : 'rows'} {rowsAt(notes.swallowedAt, swallowed)} a quote opens that is closed on a
          later line only; what stands between looks like rows of their own, and would be one answer.{' '}
          {byLines && (
            <Button look="plain" onClick={byLines}>
              Read each line as a row
            </Button>
          )}
        </p>
      )}
      {words.length > 0 && <p>{words.join(' ')}</p>}
    </div>
  );
}
