import { type ComponentType, Suspense } from 'react';
import { useAddress } from '../lib/address';
import { required } from '../lib/required';
import { Boundary } from './Boundary';
import { Tabs } from './Tabs';
import { Skeleton } from './Text';

type Props = {
  /** What the ways to look at it are called together. */
  label: string;
  /** By the word in the address line; the first is shown where none is there. */
  tabs: Record<string, readonly [string, ComponentType]>;
};

/** The ways to look at what a view is about: one is shown, all are named above it. */
export function Subviews({ label, tabs }: Props) {
  const { one, set } = useAddress();
  const names = Object.keys(tabs);
  const shown = one('tab', names);
  const [name, Shown] = required(tabs[shown]);
  return (
    <Tabs
      label={label}
      value={shown}
      change={(t) => set({ tab: t === names[0] ? '' : t, pick: '', stop: '' })}
      tabs={names.map((t) => ({ value: t, words: required(tabs[t])[0] }))}
      className="flex h-full min-h-0 flex-col max-sm:h-auto"
      panel="relative flex min-h-0 flex-1 flex-col overflow-y-auto max-sm:h-[80vh]"
    >
      <Boundary what={name} key={shown}>
        <Suspense fallback={<Skeleton lines={6} />}>
          <Shown />
        </Suspense>
      </Boundary>
    </Tabs>
  );
}
