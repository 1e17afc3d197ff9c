import { useState } from 'react';
import type { Edit, FrameLine } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Dialog, Ends } from '../parts/Dialog';
import { Radios } from '../parts/Radios';
import { Labelled } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import { RuleText } from '../rule/Rule';

type RulesProps = {
  line: FrameLine;
  lines: FrameLine[];
  /** The rules that are ticked at first. */
  ticked: string[];
  close: () => void;
};

const ways = { move: 'Move to another category', off: 'Turn off', remove: 'Delete' } as const;
type Way = keyof typeof ways;

/** Moves, turns off or deletes rules of a category, several in one edit. */
export function Rules({ line, lines, ticked, close }: RulesProps) {
  const { edit } = useDesk();
  const [chosen, setChosen] = useState(ticked);
  const [way, setWay] = useState<Way>('move');
  const [to, setTo] = useState('');
  const target = lines.find((l) => l.id === to);
  const change = chosen.length ? together({ line, target, chosen, way }) : undefined;
  return (
    <Dialog title={`Rules of ${line.name}`} wide close={close}>
      <form
        className="grid gap-2"
        onSubmit={async (e) => {
          e.preventDefault();
          if (!change) return;
          close();
          await edit(change);
        }}
      >
        <fieldset className="max-h-[38vh] overflow-y-auto">
          <legend className="sr-only">Rules</legend>
          {line.hits.map((r) => (
            <label
              key={r.source}
              className="grid grid-cols-[1.4rem_minmax(0,1fr)_auto] items-baseline border-t border-hair py-0.5"
            >
              <Checkbox
                checked={chosen.includes(r.source)}
                change={(on) => setChosen(on ? [...chosen, r.source] : chosen.filter((x) => x !== r.source))}
              />
              <span className="font-mono text-lg break-words">
                <RuleText source={r.source} />
              </span>
              <span className="text-right text-soft">{count(r.answers)}</span>
            </label>
          ))}
        </fieldset>
        <Radios
          label="What to do"
          value={way}
          change={setWay}
          options={(Object.keys(ways) as Way[]).map((w) => ({ value: w, words: ways[w] }))}
        />
        {way === 'move' && (
          <Labelled name="The category they go to">
            <Combobox
              label="The category they go to"
              value={to}
              change={setTo}
              options={[{ value: '', words: 'choose one' }, ...categoryOptions(lines.filter((l) => l.id !== line.id))]}
            />
          </Labelled>
        )}
        {way === 'move' && target && (line.less.length > 0 || target.less.length > 0) && (
          <p className="text-soft">“Unless” rules stay where they are: they take away in their own category only.</p>
        )}
        <EffectOf change={change} />
        <Ends
          go={way === 'move' ? 'Move them' : way === 'off' ? 'Turn them off' : 'Delete them'}
          ready={!!change}
          close={close}
        />
      </form>
    </Dialog>
  );
}

type What = { line: FrameLine; target?: FrameLine; chosen: string[]; way: Way };

function together({ line, target, chosen, way }: What): Edit | undefined {
  const what = many(chosen.length, 'rule');
  switch (way) {
    case 'off':
      return {
        kind: 'several',
        summary: `Turned off ${what} of ${line.name}`,
        rest: chosen.map((rule) => ({ category: line.id, rule, on: true })),
      };
    case 'remove':
      return {
        kind: 'several',
        summary: `Removed ${what} from ${line.name}`,
        rules: chosen.map((was) => ({ category: line.id, was, rule: '' })),
      };
    case 'move':
      if (!target) return undefined;
      return {
        kind: 'several',
        summary: `Moved ${what} from ${line.name} to ${target.name}`,
        rules: [
          ...chosen.map((was) => ({ category: line.id, was, rule: '' })),
          ...chosen
            .filter((rule) => !target.hits.some((h) => h.source === rule))
            .map((rule) => ({ category: target.id, rule })),
        ],
      };
  }
}
