import { ContextMenu as Context, DropdownMenu as Dropdown } from 'radix-ui';
import type { ReactNode } from 'react';
import { Button, Kbd } from './Button';

/** Something that can be done; a rule stands above it where it begins a group. */
export type Action = { words: string; key?: string; act: () => void; disabled?: boolean; group?: boolean };

const box = 'z-40 min-w-48 rounded-sm border border-edge bg-sheet py-1 shadow-over';
const item =
  'flex cursor-pointer items-baseline justify-between gap-6 px-3 py-1 outline-none data-disabled:cursor-default data-disabled:opacity-55 data-highlighted:bg-mosspale forced-colors:data-highlighted:outline';

const inside = (a: Action) => (
  <>
    <span>{a.words}</span>
    {a.key && <Kbd>{a.key}</Kbd>}
  </>
);

type MenuProps = {
  words: ReactNode;
  label?: string;
  actions: Action[];
  look?: 'normal' | 'plain';
  /** It is one of the stops of a list. */
  stop?: boolean;
  /** Tab passes it over: keys of the list do the same. */
  skip?: boolean;
};

/** What can be done with something, behind one button. */
export function Menu({ words, label, actions, look = 'plain', stop, skip }: MenuProps) {
  return (
    <Dropdown.Root>
      <Dropdown.Trigger asChild>
        <Button look={look} aria-label={label} data-stop={stop ? '' : undefined} tabIndex={skip ? -1 : undefined}>
          {words}
        </Button>
      </Dropdown.Trigger>
      <Dropdown.Portal>
        <Dropdown.Content align="start" sideOffset={3} className={box}>
          {actions.map((a) => (
            <div key={a.words}>
              {a.group && <Dropdown.Separator className="my-1 h-px bg-line" />}
              <Dropdown.Item className={item} disabled={a.disabled} onSelect={a.act}>
                {inside(a)}
              </Dropdown.Item>
            </div>
          ))}
        </Dropdown.Content>
      </Dropdown.Portal>
    </Dropdown.Root>
  );
}

/** The same where the right button was pressed; everything in it can be done otherwise too. */
export function ContextMenu({ actions, children }: { actions: Action[]; children: ReactNode }) {
  return (
    <Context.Root>
      <Context.Trigger asChild>{children}</Context.Trigger>
      <Context.Portal>
        <Context.Content className={box}>
          {actions.map((a) => (
            <div key={a.words}>
              {a.group && <Context.Separator className="my-1 h-px bg-line" />}
              <Context.Item className={item} disabled={a.disabled} onSelect={a.act}>
                {inside(a)}
              </Context.Item>
            </div>
          ))}
        </Context.Content>
      </Context.Portal>
    </Context.Root>
  );
}
