import { useState } from 'react';
import { useMaker } from '../lib/maker';
import { TextField } from '../parts/Text';

/** Who decides in this browser, as they call themselves: kept when the field is left. */
export function MakerField({ words }: { words: string }) {
  const [name, setName] = useMaker();
  const [typed, setTyped] = useState(name);
  return (
    <label>
      <span className="text-sm text-soft">{words}</span>{' '}
      <TextField
        value={typed}
        maxLength={100}
        placeholder="your name"
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => setName(typed)}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
    </label>
  );
}
