import { useState } from 'react';
import { useFocus } from '../lib/address';
import type { Edit, FrameLine } from '../lib/api';
import { categoryOptions, useDesk } from '../lib/desk';
import { count, many } from '../lib/format';
import { Ends, Sheet } from '../parts/Dialog';
import { EffectOf } from '../rule/EffectOf';
import { RuleText } from '../rule/Rule';

export type Arranging = 'move' | 'merge' | 'split' | 'remove';

type ArrangeProps = { kind: Arranging; line: FrameLine; lines: FrameLine[]; close: () => void };

/** Moves, merges, splits or removes a category, its effect shown first. */
export function Arrange({ kind, line, lines, close }: ArrangeProps) {
  const { edit } = useDesk();
  const { set } = useFocus();
  const inside = (l: FrameLine) => l.path.join('\n').startsWith(`${line.path.join('\n')}\n`);
  const others = lines.filter((l) => l.id !== line.id && !inside(l));
  const nets = others.filter((l) => !l.decisions);
  const mates = others.filter(
    (l) => !!l.net === !!line.net && !line.path.join('\n').startsWith(`${l.path.join('\n')}\n`),
  );
  const [to, setTo] = useState(kind === 'move' ? (line.up ?? '') : '');
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
    <Sheet title={title} close={close}>
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
          <label className="stack">
            {kind === 'move' ? 'The net it should stand in' : 'The category that stays'}
            <select value={to} onChange={(e) => setTo(e.target.value)}>
              <option value="">{kind === 'move' ? 'the top' : 'choose one'}</option>
              {categoryOptions(kind === 'move' ? nets : mates)}
            </select>
          </label>
        )}
        {kind === 'move' && (
          <p className="soft">
            Drag it in the outline, or press Alt with ↑ ↓ → ←, to move it without this sheet. A category with answers by
            hand can’t become a net, so it is not offered.
          </p>
        )}
        {kind === 'split' && (
          <>
            <label className="stack">
              Name of the new category
              <input className="wide" value={name} onChange={(e) => setName(e.target.value)} />
            </label>
            <fieldset className="plainset">
              <legend>Rules that go with it</legend>
              {line.hits.map((r) => (
                <p key={r.source}>
                  <label className="splitrule">
                    <input
                      type="checkbox"
                      checked={rules.includes(r.source)}
                      onChange={(e) =>
                        setRules(e.target.checked ? [...rules, r.source] : rules.filter((x) => x !== r.source))
                      }
                    />
                    <span className="rulesource">
                      <RuleText source={r.source} />
                    </span>
                    <span className="num soft">{count(r.answers)}</span>
                  </label>
                </p>
              ))}
            </fieldset>
            {line.less.length > 0 && <p className="soft">Its “unless” rules hold for both.</p>}
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
    </Sheet>
  );
}
