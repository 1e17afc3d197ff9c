import { Command } from 'cmdk';
import { Dialog as Radix } from 'radix-ui';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { useAddress } from '../lib/address';
import { useDesk } from '../lib/edits';
import { useFocusBack } from '../lib/focus';
import { count } from '../lib/format';
import { allCommands, keyName } from '../lib/keys';
import { useAsk, useFrame, useStudies } from '../lib/queries';
import { viewAddress, viewOrder, views } from '../lib/views';
import { Kbd } from '../parts/Button';
import { Over } from '../parts/depth';

type Found = { group: string; words: string; beside?: string; key?: string; act: () => void };

/** Finds views, categories, terms, variables, kept focuses and studies, and does all that can be done here. */
export default function Palette({ close }: { close: () => void }) {
  const { question } = useDesk();
  const { focusText, narrow } = useAddress();
  const navigate = useNavigate();
  const [typed, setTyped] = useState('');
  const back = useFocusBack();
  // What could be done when it was opened: from inside, nothing of the view can be pressed.
  const [commands] = useState(allCommands);
  const sought = typed.trim().toLowerCase();
  const frame = useFrame(focusText);
  const studies = useStudies();
  const terms = useAsk('terms', { focus: focusText, search: sought, limit: 8, row: 1, sort: 'answers' } as never, {
    enabled: sought.length > 1,
  });
  const go = (address: string) => () => navigate(address);
  const all: Found[] = [
    ...viewOrder.map((v) => ({
      group: 'Views',
      words: views[v],
      act: go(viewAddress(question.id, v, focusText)),
    })),
    ...[...commands].flatMap(([where, list]) =>
      list
        .filter((c) => !c.off && !c.move)
        .map((c) => ({ group: where, words: c.words, key: c.key ? keyName(c.key) : undefined, act: c.act })),
    ),
    ...(frame.data?.categories ?? []).map((c) => ({
      group: 'Categories',
      words: c.path.join(' / '),
      beside: `${c.short} · ${count(c.has)}`,
      act: go(viewAddress(question.id, 'code', focusText, { category: c.id ?? '' })),
    })),
    ...question.variables.flatMap((v) =>
      v.values.map((value) => ({
        group: 'Respondents',
        words: `${v.name} is ${value}`,
        beside: 'narrow the focus',
        act: () => narrow({ kind: 'variable', name: v.name, op: '=', values: [value] }),
      })),
    ),
    ...(studies.data ?? []).flatMap((s) =>
      s.questions.map((q) => ({ group: 'Studies', words: `${q.name} (${s.name})`, act: go(`/q/${q.id}/terms`) })),
    ),
    { group: 'Studies', words: 'All studies', act: go('/') },
  ];
  const words = sought.split(/\s+/).filter(Boolean);
  const found = all.filter((f) => words.every((w) => f.words.toLowerCase().includes(w)));
  if (terms.now && sought)
    found.push(
      ...terms.now.terms.map((t) => ({
        group: 'Terms',
        words: t.label,
        beside: `${count(t.answers)} answers`,
        act: go(
          viewAddress(question.id, 'terms', focusText, { pick: JSON.stringify([{ kind: 'term', text: t.label }]) }),
        ),
      })),
    );
  const most = sought ? 60 : 40;
  const groups = new Map<string, Found[]>();
  for (const f of found.slice(0, most)) groups.set(f.group, [...(groups.get(f.group) ?? []), f]);
  return (
    <Over>
      <Radix.Root open onOpenChange={(open) => !open && close()}>
        <Radix.Portal>
          <Radix.Overlay className="fixed inset-0 z-30 bg-[#23261f55]" />
          <Radix.Content
            aria-describedby={undefined}
            onCloseAutoFocus={back}
            className="fixed top-[10vh] left-1/2 z-30 w-[min(38rem,94vw)] -translate-x-1/2 rounded-(--radius) border
              border-edge bg-sheet text-ink shadow-dialog outline-none"
          >
            <Radix.Title className="sr-only">Find and do anything</Radix.Title>
            <Command shouldFilter={false} label="Find and do anything">
              <Command.Input
                value={typed}
                onValueChange={setTyped}
                placeholder="a view, a category, a term, a group, something to do…"
                className="w-full border-b border-line bg-transparent px-4.5 py-3 text-lg outline-none"
              />
              <Command.List className="max-h-[60vh] overflow-y-auto pb-2" tabIndex={0}>
                <Command.Empty className="px-4.5 py-3 text-soft">Nothing of that name.</Command.Empty>
                {[...groups].map(([group, list]) => (
                  <Command.Group
                    key={group}
                    heading={group}
                    className="[&_[cmdk-group-heading]]:px-4.5 [&_[cmdk-group-heading]]:pt-2.5
                      [&_[cmdk-group-heading]]:pb-0.5 [&_[cmdk-group-heading]]:text-sm
                      [&_[cmdk-group-heading]]:text-soft"
                  >
                    {list.map((f, i) => (
                      <Command.Item
                        key={`${f.words}${i}`}
                        value={`${group} ${f.words} ${i}`}
                        onSelect={() => {
                          close();
                          // Where the focus goes back to is settled first.
                          setTimeout(f.act);
                        }}
                        className="flex cursor-pointer items-baseline justify-between gap-6 px-4.5 py-1
                          data-[selected=true]:bg-mosspale forced-colors:data-[selected=true]:outline"
                      >
                        <span className="truncate">{f.words}</span>
                        {f.key ? (
                          <Kbd>{f.key}</Kbd>
                        ) : (
                          <span className="text-sm whitespace-nowrap text-soft">{f.beside}</span>
                        )}
                      </Command.Item>
                    ))}
                  </Command.Group>
                ))}
                {found.length > most && (
                  <p className="px-4.5 py-1.5 text-sm text-soft">and {count(found.length - most)} more: type on</p>
                )}
              </Command.List>
            </Command>
          </Radix.Content>
        </Radix.Portal>
      </Radix.Root>
    </Over>
  );
}
