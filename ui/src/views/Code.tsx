import { lazy, Suspense } from 'react';
import { useFocus } from '../focus';
import Frame from './code/Frame';

const tabs = {
  frame: ['Frame', Frame],
  drafts: ['Drafts', lazy(() => import('./code/Drafts'))],
  health: ['Health', lazy(() => import('./code/Health'))],
  revisions: ['Revisions', lazy(() => import('./code/Revisions'))],
  files: ['In and out', lazy(() => import('./code/InOut'))],
} as const;
type Tab = keyof typeof tabs;

/** The code frame: written, proposed, looked over, compared with what it was, carried in and out. */
export default function Code() {
  const { params, set } = useFocus();
  const tab: Tab = (params.get('tab') as Tab) in tabs ? (params.get('tab') as Tab) : 'frame';
  const Shown = tabs[tab][1];
  return (
    <div className="codeviews">
      <nav className="row wrap subviews" aria-label="Ways to look at the code frame">
        {(Object.keys(tabs) as Tab[]).map((t) => (
          <button
            key={t}
            type="button"
            className="plain"
            aria-current={t === tab ? 'page' : undefined}
            onClick={() => set({ tab: t === 'frame' ? '' : t, pick: '' })}
          >
            {tabs[t][0]}
          </button>
        ))}
      </nav>
      <Suspense fallback={<p className="ghost">&nbsp;</p>}>
        <Shown />
      </Suspense>
    </div>
  );
}
