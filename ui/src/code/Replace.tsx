import { useState } from 'react';
import type { Edit, FrameLine } from '../lib/api';
import { useDesk } from '../lib/edits';
import { count, many } from '../lib/format';
import { Dialog, Ends } from '../parts/Dialog';
import { Labelled, TextField } from '../parts/Text';
import { EffectOf } from '../rule/EffectOf';
import { RuleText } from '../rule/Rule';

type ReplaceProps = {
  /** The categories whose rules are meant; none for all. */
  of: FrameLine[];
  close: () => void;
};

const shown = 40;

/** Finds a part in rules and puts another in its place; every rule that would change is listed first. */
export function Replace({ of, close }: ReplaceProps) {
  const { edit } = useDesk();
  const [find, setFind] = useState('');
  const [put, setPut] = useState('');
  const change: Edit | undefined =
    find.trim() && put.trim()
      ? {
          kind: 'replace in rules',
          find: find.trim(),
          with: put.trim(),
          categories: of.length ? of.map((l) => l.id) : undefined,
        }
      : undefined;
  return (
    <Dialog
      title={
        of.length ? `Replace in the rules of ${many(of.length, 'category', 'categories')}` : 'Find and replace in rules'
      }
      wide
      close={close}
    >
      <form
        className="grid gap-1"
        onSubmit={async (e) => {
          e.preventDefault();
          if (!change) return;
          close();
          await edit(change);
        }}
      >
        <div className="grid grid-cols-2 gap-4">
          <Labelled name="Find the part">
            <TextField
              wide
              autoFocus
              className="font-mono"
              spellCheck={false}
              value={find}
              onChange={(e) => setFind(e.target.value)}
              placeholder="wifi"
            />
          </Labelled>
          <Labelled name="Put in its place">
            <TextField
              wide
              className="font-mono"
              spellCheck={false}
              value={put}
              onChange={(e) => setPut(e.target.value)}
              placeholder="wifi / internet"
            />
          </Labelled>
        </div>
        <p className="text-sm text-soft">
          A part is a word, a row of words, @list, {'{Category}'} or anything between brackets; it is found where it
          stands as such, not inside other words. Brackets are written where they are needed.
        </p>
        <EffectOf change={change}>
          {(e) =>
            e.rewritten.length > 0 && (
              <span className="block pt-1.5 font-sans text-base not-italic">
                {e.rewritten.length === 1 ? 'One rule' : `${count(e.rewritten.length)} rules`} would read otherwise:
                <span className="block max-h-[34vh] overflow-y-auto">
                  {e.rewritten.slice(0, shown).map((r) => (
                    <span
                      key={r.category + r.before}
                      data-part="rewritten"
                      className="block border-t border-hair py-0.75"
                    >
                      <span className="text-sm text-soft">{r.category}</span>
                      <br />
                      <del className="font-mono text-soft">{r.before}</del>
                      <br />
                      <span className="font-mono">
                        <RuleText source={r.after} />
                      </span>
                    </span>
                  ))}
                </span>
                {e.rewritten.length > shown && (
                  <span className="text-soft">and {count(e.rewritten.length - shown)} more</span>
                )}
              </span>
            )
          }
        </EffectOf>
        <Ends go="Replace" ready={!!change} close={close} />
      </form>
    </Dialog>
  );
}
