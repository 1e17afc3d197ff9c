import { cva } from 'class-variance-authority';
import type { ComponentProps, ReactNode } from 'react';

/** A text field that is typed into. */
export const field = cva(
  'min-w-0 rounded-sm border border-edge bg-sheet px-1.75 py-0.75 text-ink disabled:opacity-55 aria-invalid:border-clay',
  { variants: { wide: { true: 'w-full' } } },
);

/** A field for one line of text. */
export function TextField({ className, wide, ...more }: ComponentProps<'input'> & { wide?: boolean }) {
  return <input className={field({ wide, className })} {...more} />;
}

/** A field for several lines of text. */
export function TextArea({ className, ...more }: ComponentProps<'textarea'>) {
  return <textarea className={field({ wide: true, className })} {...more} />;
}

/** A control below its name. */
export function Labelled({ name, children }: { name: ReactNode; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is what stands inside
    <label className="grid gap-0.75 text-base">
      <span className="text-sm text-soft">{name}</span>
      {children}
    </label>
  );
}

/** Says what to do where there is nothing. */
export function Empty({ children }: { children: ReactNode }) {
  return (
    <p data-part="empty" className="py-3.5 font-serif text-lg text-soft italic">
      {children}
    </p>
  );
}

/** Small words above a list or figure. */
export function Caption({ children, className = '' }: { children: ReactNode; className?: string }) {
  return <p className={`pb-1.5 text-sm text-soft ${className}`}>{children}</p>;
}

/** What would change, as a sentence in the book face. */
export function Sentence({ className = '', ...more }: ComponentProps<'p'>) {
  return <p data-part="effect" className={`py-2 font-serif text-lg italic ${className}`} {...more} />;
}

/** A category's short code, in its colour. */
export function Short({ children }: { children: ReactNode }) {
  return (
    <b className="mr-1.25 rounded-sm border-[1.4px] border-(--c) px-0.75 text-xs font-bold tracking-wide text-(--c)">
      {children}
    </b>
  );
}

/** Holds the place of what is on its way. */
export function Skeleton({ lines = 1 }: { lines?: number }) {
  return (
    <div data-part="skeleton" role="status">
      <span className="sr-only">Loading</span>
      {Array.from({ length: lines }, (_, i) => (
        <div key={i} className="my-2.5 min-h-[1.4em] rounded-sm bg-hair motion-safe:animate-pulse" />
      ))}
    </div>
  );
}
