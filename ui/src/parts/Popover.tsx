import { Popover as Radix } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { Button } from './Button';

type Props = {
  /** The words on the button that opens it. */
  words: ReactNode;
  label: string;
  look?: 'normal' | 'plain';
  /** It is one of the stops of a list. */
  stop?: boolean;
  children: ReactNode | ((close: () => void) => ReactNode);
};

/** Settings that come up beside their button. */
export function Popover({ words, label, look = 'plain', stop, children }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Radix.Root open={open} onOpenChange={setOpen}>
      <Radix.Trigger asChild>
        <Button look={look} data-stop={stop ? '' : undefined}>
          {words}
        </Button>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          aria-label={label}
          className="z-20 max-h-(--radix-popover-content-available-height) max-w-[94vw] overflow-auto rounded-sm
            border border-edge bg-sheet px-4 py-3 shadow-over"
        >
          {typeof children === 'function' ? children(() => setOpen(false)) : children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
