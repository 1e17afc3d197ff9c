import { lazy, Suspense } from 'react';
import { useFocus } from '../focus';

const tabs = {
  ledger: ['Ledger', lazy(() => import('./terms/Ledger'))],
  suggestions: ['Suggestions', lazy(() => import('./terms/Suggestions'))],
  compare: ['Compare', lazy(() => import('./terms/Compare'))],
  time: ['Over time', lazy(() => import('./terms/Rising'))],
  network: ['Network', lazy(() => import('./terms/Network'))],
  whole: ['Whole text', lazy(() => import('./terms/Whole'))],
  lexicon: ['Lexicon', lazy(() => import('./terms/Lexicon'))],
} as const;
type Tab = keyof typeof tabs;

/** What is said: counted, brought together, compared, and read in context. */
export default function Terms() {
  const { params, set } = useFocus();
  const tab: Tab = (params.get('tab') as Tab) in tabs ? (params.get('tab') as Tab) : 'ledger';
  const Shown = tabs[tab][1];
  return (
    <div className="termsv">
      <nav className="row wrap subviews" aria-label="Ways to look at terms">
        {(Object.keys(tabs) as Tab[]).map((t) => (
          <button
            key={t}
            type="button"
            className="plain"
            aria-current={t === tab ? 'page' : undefined}
            onClick={() => set({ tab: t === 'ledger' ? '' : t, pick: '', stop: '' })}
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
