import type { Notes } from '../lib/api';
import { count, many } from '../lib/format';

/** What was odd about the rows, in words. */
export function Odd({ notes }: { notes: Notes }) {
  const words = [
    notes.short && `${many(notes.short, 'row')} had too few cells: the missing ones are blank.`,
    notes.long && `${many(notes.long, 'row')} had too many cells: the last cell holds the rest.`,
    (notes.short || notes.long) && notes.places?.length && `Look at row ${notes.places.slice(0, 8).join(', ')}.`,
    notes.blank && `${many(notes.blank, 'blank row or line', 'blank rows or lines')} passed over.`,
    ...(notes.renamed ?? []).slice(0, 4).map((r) => `${r[0]!.toUpperCase()}${r.slice(1)}.`),
    (notes.renamed?.length ?? 0) > 4 && `And ${count(notes.renamed!.length - 4)} more columns were given a name.`,
  ].filter(Boolean);
  if (!words.length) return null;
  return (
    <p data-part="odd" className="border-l-3 border-clay pl-2.5">
      {words.join(' ')}
    </p>
  );
}
