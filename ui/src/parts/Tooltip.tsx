import { Tooltip as Radix } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { useOnTop } from './depth';

/** Explains what it stands around, on hover and on focus; what stands inside must be able to have the focus. */
export function Tooltip({ text, children }: { text: ReactNode; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  const onTop = useOnTop();
  return (
    <Radix.Root open={open && onTop} onOpenChange={setOpen}>
      <Radix.Trigger asChild>{children}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          sideOffset={4}
          collisionPadding={8}
          className="z-50 max-w-80 rounded-sm border border-edge bg-sheet px-2.5 py-1.5 text-sm text-ink shadow-over"
        >
          {text}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

/** Tooltips wait for a moment; one after the other comes at once. */
export const TooltipProvider = ({ children }: { children: ReactNode }) => (
  <Radix.Provider delayDuration={350} skipDelayDuration={200}>
    {children}
  </Radix.Provider>
);

/** The heading of a figure, which tells its definition and its base. */
export function Heading({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Tooltip text={text}>
      <button
        type="button"
        className="cursor-help decoration-edge decoration-dotted underline-offset-3 hover:underline"
      >
        {children}
      </button>
    </Tooltip>
  );
}
