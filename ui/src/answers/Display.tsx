import { useEffect, useState } from 'react';
import { useDesk } from '../lib/edits';
import { useReading } from '../lib/reading';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { Popover } from '../parts/Popover';
import { ToggleGroup } from '../parts/ToggleGroup';

const readings = [
  { value: 'written', words: 'as written' },
  { value: 'read', words: 'as read' },
] as const;

/** How answers are shown: with or without their tags, and what stands under them. */
export function Display() {
  const [reading, setReading] = useReading();
  return (
    <Popover words="Display" label="How answers are shown">
      <div className="grid w-80 max-w-full gap-3 text-base">
        <div className="grid gap-1">
          <b className="font-semibold">Answers</b>
          <ToggleGroup label="Answers" value={reading} options={readings} change={setReading} />
          <p className="text-sm text-soft">
            {reading === 'written'
              ? 'Every letter as it came; tags and entities are faint.'
              : 'Without tags; entities as the letters they stand for. Nothing is changed in the data.'}
          </p>
        </div>
        <Under />
      </div>
    </Popover>
  );
}

const most = 20;

/** Which columns stand under an answer, in the order in which they were chosen. */
function Under() {
  const { question, editStudy } = useDesk();
  const { columns, derived, under } = question.study;
  const all = [
    ...columns.filter((c) => c.name !== question.name).map((c) => ({ name: c.name, label: c.label })),
    ...derived.map((d) => ({ name: d.name, label: undefined })),
  ];
  // What was ticked last holds until the server says the same, or refuses it: the next tick builds on it.
  const [ticked, setTicked] = useState<string[]>();
  const now = ticked ?? under;
  const kept = JSON.stringify(under);
  useEffect(() => setTicked((t) => (JSON.stringify(t) === kept ? undefined : t)), [kept]);
  const put = async (names: string[]) => {
    setTicked(names);
    if (!(await editStudy({ kind: 'under answers', names }))) setTicked((t) => (t === names ? undefined : t));
  };
  return (
    <div className="grid gap-1">
      <b className="font-semibold">Under an answer</b>
      <p className="text-sm text-soft">
        For everyone who works on this study, in the order of ticking. With none ticked: the first two segments, date
        and number of the file.
      </p>
      <ul className="max-h-60 overflow-y-auto" aria-label="Columns under an answer">
        {all.map(({ name, label }) => (
          <li key={name}>
            <label className="flex items-baseline gap-1.5 py-0.5">
              <Checkbox
                checked={now.includes(name)}
                disabled={!now.includes(name) && now.length >= most}
                change={(on) => put(on ? [...now, name] : now.filter((u) => u !== name))}
              />
              <span className="min-w-0 break-words">
                {label ?? name}
                {label && <span className="text-soft"> · {name}</span>}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <p>
        <Button look="plain" disabled={!now.length} onClick={() => put([])}>
          Untick all
        </Button>
      </p>
    </div>
  );
}
