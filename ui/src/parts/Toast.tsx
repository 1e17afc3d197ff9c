import { Toast as Radix } from 'radix-ui';
import type { ReactNode } from 'react';
import { Button } from './Button';

/** Where notices come up; F8 goes there. */
export function ToastProvider({ children }: { children: ReactNode }) {
  return (
    <Radix.Provider label="Notice" duration={9000}>
      {children}
    </Radix.Provider>
  );
}

/** The place of notices in the page. */
export const ToastPlace = ({ className = '' }: { className?: string }) => (
  <Radix.Viewport className={`m-0 min-w-0 list-none overflow-hidden p-0.5 ${className}`} label="Notices ({hotkey})" />
);

type Props = { bad?: boolean; action?: { words: string; act: () => void }; close: () => void; children: ReactNode };

const over = '[role=dialog], [role=alertdialog], [role=menu], [role=listbox][data-state=open]';

/** A notice that comes up while something lies over the page would take Esc from it: it goes, and hands the key on. */
function handOn() {
  if (!document.querySelector(over)) return;
  const esc = () => new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true });
  setTimeout(() => document.activeElement?.dispatchEvent(esc()));
}

/** Says what was done, or why not, is read out, and leaves by itself. */
export function Toast({ bad, action, close, children }: Props) {
  return (
    <Radix.Root
      data-part="notice"
      duration={bad ? 20_000 : 9000}
      onOpenChange={(open) => !open && close()}
      onEscapeKeyDown={handOn}
      className={`flex min-w-0 items-baseline gap-2.5 text-base ${bad ? 'text-clay' : 'text-ink'}`}
    >
      <Radix.Description className="min-w-0 truncate" title={typeof children === 'string' ? children : undefined}>
        {children}
      </Radix.Description>
      {action && (
        <Radix.Action altText={action.words} asChild>
          <Button look="plain" onClick={action.act}>
            {action.words}
          </Button>
        </Radix.Action>
      )}
      <Radix.Close asChild>
        <Button look="plain" aria-label="Close this notice">
          ×
        </Button>
      </Radix.Close>
    </Radix.Root>
  );
}
