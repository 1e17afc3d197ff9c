import { type ComponentType, Suspense } from 'react';
import { useFocus } from '../lib/address';

type Props = {
  /** What the ways to look at it are called together. */
  label: string;
  className: string;
  /** By the word in the address line; the first is shown where none is there. */
  tabs: Record<string, readonly [string, ComponentType]>;
};

/** The ways to look at what a view is about: one is shown, all are named above it. */
export function Subviews({ label, className, tabs }: Props) {
  const { params, set } = useFocus();
  const first = Object.keys(tabs)[0]!;
  const tab = params.get('tab') ?? '';
  const shown = tab in tabs ? tab : first;
  const Shown = tabs[shown]![1];
  return (
    <div className={className}>
      <nav className="row wrap subviews" aria-label={label}>
        {Object.entries(tabs).map(([t, [name]]) => (
          <button
            key={t}
            type="button"
            className="plain"
            aria-current={t === shown ? 'page' : undefined}
            onClick={() => set({ tab: t === first ? '' : t, pick: '', stop: '' })}
          >
            {name}
          </button>
        ))}
      </nav>
      <Suspense fallback={<p className="ghost">&nbsp;</p>}>
        <Shown />
      </Suspense>
    </div>
  );
}
