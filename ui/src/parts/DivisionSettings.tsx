import type { Division } from '../lib/api';
import { NumberField } from './NumberField';
import { Select } from './Select';
import { TextField } from './Text';

const ways: [Division['by'], string][] = [
  ['paragraph', 'paragraphs'],
  ['line', 'lines'],
  ['sentence', 'sentences'],
  ['parts', 'equal parts'],
  ['delimiter', 'a character or word'],
  ['pattern', 'a regular expression'],
];

type Props = { division: Division; change: (to: Partial<Division>) => void };

/** Where texts are cut into parts. */
export function DivisionSettings({ division: d, change }: Props) {
  return (
    <>
      {' at '}
      <Select
        label="cut at"
        value={d.by}
        change={(by) => change({ by: by as Division['by'] })}
        options={ways.map(([w, words]) => ({ value: w, words }))}
      />
      {d.by === 'parts' && (
        <NumberField
          quiet
          label="how many parts"
          value={d.n ?? 10}
          least={2}
          most={1000}
          change={(n) => change({ n })}
        />
      )}
      {(d.by === 'delimiter' || d.by === 'pattern') && (
        <TextField
          className="font-mono"
          aria-label="what separates the answers"
          placeholder={d.by === 'pattern' ? '\\n-{3,}\\n' : '***'}
          value={d.at ?? ''}
          onChange={(e) => change({ at: e.target.value })}
        />
      )}
    </>
  );
}
