import { Collapsible as Radix } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { Button } from './Button';

type Props = { words: ReactNode; open?: boolean; change?: (open: boolean) => void; children: ReactNode };

/** Something that can be folded away under its heading. */
export function Collapsible({ words, open, change, children }: Props) {
  const [own, setOwn] = useState(false);
  const now = open ?? own;
  return (
    <Radix.Root open={now} onOpenChange={change ?? setOwn}>
      <Radix.Trigger asChild>
        <Button look="bare" className="underline decoration-edge underline-offset-3">
          <span aria-hidden className="mr-1 inline-block text-xs text-soft">
            {now ? '▾' : '▸'}
          </span>
          {words}
        </Button>
      </Radix.Trigger>
      <Radix.Content>{children}</Radix.Content>
    </Radix.Root>
  );
}
