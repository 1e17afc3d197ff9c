import { cva, type VariantProps } from 'class-variance-authority';
import type { ComponentProps, ReactNode } from 'react';
import { Link as RouterLink } from 'react-router';

const looks = cva('cursor-pointer text-left disabled:cursor-default disabled:opacity-55', {
  variants: {
    look: {
      normal: 'rounded-(--radius) border border-moss px-2.5 py-0.75 text-moss',
      /** What one came for. */
      go: 'rounded-(--radius) border border-moss bg-moss px-2.5 py-0.75 text-onmoss',
      /** A word in a line of text. */
      plain:
        'px-0.5 text-ink underline decoration-edge underline-offset-3 enabled:hover:decoration-moss aria-pressed:bg-mosspale aria-pressed:font-semibold aria-pressed:decoration-moss forced-colors:aria-pressed:outline',
      /** Anything that is pressed and looks like what it holds. */
      bare: 'text-ink',
    },
  },
  defaultVariants: { look: 'normal' },
});

type Props = ComponentProps<'button'> & VariantProps<typeof looks>;

/** A button; it sends no form unless its type says so. */
export function Button({ look, className, type = 'button', ...more }: Props) {
  return <button type={type} className={looks({ look, className })} {...more} />;
}

type LinkProps = ComponentProps<typeof RouterLink> & VariantProps<typeof looks>;

/** A way to another place of the application. */
export function Link({ look = 'plain', className, ...more }: LinkProps) {
  return <RouterLink className={looks({ look, className })} {...more} />;
}

/** A key of the keyboard. */
export function Kbd({ children }: { children: ReactNode }) {
  return (
    <kbd
      className="relative -top-px rounded-sm border border-b-2 border-current/40 px-1.25 py-0.5 font-sans text-xs
      leading-none font-semibold whitespace-nowrap"
    >
      {children}
    </kbd>
  );
}
