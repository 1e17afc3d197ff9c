import { useState } from 'react';
import { useMaker } from '../lib/maker';
import { useKnownSession } from '../lib/session';
import { TextField } from '../parts/Text';

/** Who decides in this browser, as they call themselves: kept when the field is left. */
export function MakerField({ words }: { words: string }) {
  const [name, setName] = useMaker();
  const [typed, setTyped] = useState(name);
  const session = useKnownSession();
  if (session?.name)
    return (
      <span>
        <span className="text-sm text-soft">{words}</span> {session.name}
      </span>
    );
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
