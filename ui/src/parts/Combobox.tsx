import { Command } from 'cmdk';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import type { Option } from './Select';

type Props = {
  /** What is chosen, in words. */
  label: string;
  value: string;
  options: readonly Option<string>[];
  change: (v: string) => void;
  /** Stands on the button while nothing is chosen. */
  placeholder?: string;
  className?: string;
  /** Whether the list is open, where something else opens it too. */
  shown?: boolean;
  show?: (open: boolean) => void;
  /** It is one of the stops of a list. */
  stop?: boolean;
  /** Makes what was typed, where no option is called so. */
  create?: { words: (typed: string) => string; act: (typed: string) => void };
};

/** One of many: typing narrows the list. */
export function Combobox({
  label,
  value,
  options,
  change,
  placeholder = 'choose one',
  className = '',
  shown,
  show,
  create,
  stop,
}: Props) {
  const [own, setOwn] = useState(false);
  const open = shown ?? own;
  const setOpen = show ?? setOwn;
  const chosen = options.find((o) => o.value === value);
  return (
    <Popover.Root open={open} onOpenChange={setOpen} modal>
      <Popover.Trigger
        role="combobox"
        aria-expanded={open}
        aria-label={`${label}: ${chosen?.words ?? placeholder}`}
        data-value={value}
        data-stop={stop ? '' : undefined}
        className={`inline-flex max-w-full min-w-0 cursor-pointer items-baseline justify-between gap-1.5 rounded-sm
          border border-edge bg-sheet px-1.75 py-0.75 text-left text-ink ${className}`}
      >
        <span className={`truncate ${chosen ? '' : 'text-soft'}`}>{chosen?.words ?? placeholder}</span>
        <span aria-hidden className="text-xs text-soft">
          ▾
        </span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={3}
          collisionPadding={8}
          className="z-40 flex max-h-[min(24rem,var(--radix-popover-content-available-height))] w-max
            max-w-[min(30rem,92vw)] min-w-(--radix-popover-trigger-width) flex-col rounded-sm border border-edge
            bg-sheet shadow-over"
        >
          <Found
            label={label}
            options={options}
            value={value}
            take={(v) => {
              setOpen(false);
              change(v);
            }}
            create={
              create && {
                words: create.words,
                act: (typed) => {
                  setOpen(false);
                  create.act(typed);
                },
              }
            }
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

type FoundProps = {
  label: string;
  options: readonly Option<string>[];
  value: string;
  take: (v: string) => void;
  create?: Props['create'];
};

/** A field and the options that hold what is typed into it, in their order. */
function Found({ label, options, value, take, create }: FoundProps) {
  const [typed, setTyped] = useState('');
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const found = options.filter((o) => words.every((w) => o.words.toLowerCase().includes(w)));
  const most = 200;
  const name = typed.trim();
  const makes = create && name && !options.some((o) => o.words.toLowerCase() === name.toLowerCase());
  return (
    <Command shouldFilter={false} label={label} className="flex min-h-0 flex-col" defaultValue={value}>
      <Command.Input
        value={typed}
        onValueChange={setTyped}
        placeholder="find…"
        className="border-b border-line bg-transparent px-3 py-1.5 outline-none"
      />
      <Command.List className="min-h-0 overflow-y-auto py-1">
        {!makes && <Command.Empty className="px-3 py-1 text-soft">Nothing of that name.</Command.Empty>}
        {found.slice(0, most).map((o) => (
          <Command.Item
            key={o.value}
            value={o.value}
            disabled={o.disabled}
            onSelect={() => take(o.value)}
            className={`cursor-pointer px-3 py-1 data-[disabled=true]:opacity-55 data-[selected=true]:bg-mosspale
              forced-colors:data-[selected=true]:outline ${o.value === value ? 'font-semibold' : ''}`}
          >
            {o.words}
          </Command.Item>
        ))}
        {makes && (
          <Command.Item
            value={`make ${name}`}
            onSelect={() => create.act(name)}
            className="cursor-pointer px-3 py-1 data-[selected=true]:bg-mosspale forced-colors:data-[selected=true]:outline"
          >
            {create.words(name)}
          </Command.Item>
        )}
        {found.length > most && (
          <p className="px-3 py-1 text-sm text-soft">and {found.length - most} more: type on to find them</p>
        )}
      </Command.List>
    </Command>
  );
}
