import { ScrollArea as Radix } from 'radix-ui';
import type { ReactNode, Ref } from 'react';
import { nonce } from '../lib/nonce';

type Props = { label: string; viewport?: Ref<HTMLDivElement>; className?: string; children: ReactNode };

/** A region that scrolls, by keyboard too. */
export function ScrollArea({ label, viewport, className = '', children }: Props) {
  return (
    <Radix.Root type="hover" className={`relative min-h-0 overflow-hidden ${className}`}>
      <Radix.Viewport
        ref={viewport}
        nonce={nonce}
        role="region"
        aria-label={label}
        tabIndex={0}
        className="size-full [&>div]:!block"
      >
        {children}
      </Radix.Viewport>
      {(['vertical', 'horizontal'] as const).map((o) => (
        <Radix.Scrollbar
          key={o}
          orientation={o}
          className="flex touch-none p-px select-none data-[orientation=horizontal]:h-2.5
            data-[orientation=horizontal]:flex-col data-[orientation=vertical]:w-2.5"
        >
          <Radix.Thumb className="relative flex-1 rounded-full bg-edge/70" />
        </Radix.Scrollbar>
      ))}
    </Radix.Root>
  );
}
