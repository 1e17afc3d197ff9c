import { useState } from 'react';
import { useAddress } from '../lib/address';
import type { Edit, FrameLine } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { Checkbox } from '../parts/Checkbox';
import { Combobox } from '../parts/Combobox';
import { Dialog, Ends } from '../parts/Dialog';
import { Labelled, TextField } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import { RuleText } from '../rule/Rule';

export type Arranging = 'move' | 'merge' | 'split' | 'remove';

type ArrangeProps = {
  kind: Arranging;
  line: FrameLine;
  lines: FrameLine[];
  /** The category that is proposed to merge it into. */
  into?: string;
  close: () => void;
};

/** Moves, merges, splits or removes a category, its effect shown first. */
export function Arrange({ kind, line, lines, into, close }: ArrangeProps) {
  const { edit } = useDesk();
  const { set } = useAddress();
  const inside = (l: FrameLine) => l.path.join('\n').startsWith(`${line.path.join('\n')}\n`);
  const others = lines.filter((l) => l.id !== line.id && !inside(l));
  const nets = others.filter((l) => !l.decisions);
  const mates = others.filter(
    (l) => !!l.net === !!line.net && !line.path.join('\n').startsWith(`${l.path.join('\n')}\n`),
  );
  const [to, setTo] = useState(kind === 'move' ? (line.up ?? '') : (into ?? ''));
  const [name, setName] = useState('');
  const [rules, setRules] = useState<string[]>([]);
  const title = {
    move: `Move ${line.name}`,
    merge: `Merge ${line.name} into another category`,
    split: `Split ${line.name}`,
    remove: `Remove ${line.name}?`,
  }[kind];
  const change: Edit | undefined = {
    move:
      to === (line.up ?? '')
        ? undefined
        : ({ kind: 'move category', category: line.id, parent: to || undefined } as const),
    merge: to ? ({ kind: 'merge categories', category: line.id, into: to } as const) : undefined,
    split:
      name.trim() && rules.length
        ? { kind: 'split category' as const, category: line.id, name: name.trim(), rules }
        : undefined,
    remove: { kind: 'remove category', category: line.id } as const,
  }[kind];
  return (
    <Dialog title={title} close={close}>
      <form
        onSubmit={async (e) => {
          e.preventDefault();
          if (!change) return;
          close();
          if ((await edit(change)) && (kind === 'remove' || kind === 'merge'))
            set({ category: kind === 'merge' ? to : '', pick: '' }, true);
        }}
      >
        {(kind === 'move' || kind === 'merge') && (
          <Labelled name={kind === 'move' ? 'The net it should stand in' : 'The category that stays'}>
            <Combobox
              label={kind === 'move' ? 'The net it should stand in' : 'The category that stays'}
              value={to}
              change={(v) => setTo(v)}
              options={[
                { value: '', words: kind === 'move' ? 'the top' : 'choose one' },
                ...categoryOptions(kind === 'move' ? nets : mates),
              ]}
            />
          </Labelled>
        )}
        {kind === 'move' && (
          <p className="text-soft">
            Drag it in the outline, or press Alt with ↑ ↓ → ←, to move it without this sheet. A category with answers by
            hand can’t become a net, so it is not offered.
          </p>
        )}
        {kind === 'split' && (
          <>
            <Labelled name="Name of the new category">
              <TextField wide value={name} onChange={(e) => setName(e.target.value)} />
            </Labelled>
            <fieldset>
              <legend>Rules that go with it</legend>
              {line.hits.map((r) => (
                <p key={r.source}>
                  <label className="grid grid-cols-[1.4rem_minmax(0,1fr)_auto] items-baseline">
                    <Checkbox
                      checked={rules.includes(r.source)}
                      change={(on) => setRules(on ? [...rules, r.source] : rules.filter((x) => x !== r.source))}
                    />
                    <span className="font-mono text-lg break-words">
                      <RuleText source={r.source} />
                    </span>
                    <span className="text-right text-soft">{count(r.answers)}</span>
                  </label>
                </p>
              ))}
            </fieldset>
            {line.less.length > 0 && <p className="text-soft">Its “unless” rules hold for both.</p>}
          </>
        )}
        <EffectOf change={change}>
          {() =>
            kind === 'remove'
              ? `${line.net ? 'Everything inside the net goes with it. ' : ''}${line.decisions ? `${many(line.decisions, 'decision')} by hand go along. ` : ''}Undo brings it back whole.`
              : kind === 'merge'
                ? 'What the one or the other had, the one that stays has then; decisions by hand go along.'
                : ''
          }
        </EffectOf>
        <Ends
          go={{ move: 'Move it', merge: 'Merge them', split: 'Split it', remove: 'Remove it' }[kind]}
          ready={!!change}
          close={close}
        />
      </form>
    </Dialog>
  );
}
