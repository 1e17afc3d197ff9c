import { lazy } from 'react';
import { Subviews } from '../frame/Subviews';

const tabs = {
  ledger: ['Ledger', lazy(() => import('./terms/Ledger'))],
  suggestions: ['Suggestions', lazy(() => import('./terms/Suggestions'))],
  compare: ['Compare', lazy(() => import('./terms/Compare'))],
  time: ['Over time', lazy(() => import('./terms/Rising'))],
  network: ['Network', lazy(() => import('./terms/Network'))],
  whole: ['Whole text', lazy(() => import('./terms/Whole'))],
  lexicon: ['Lexicon', lazy(() => import('./terms/Lexicon'))],
} as const;
/** What is said: counted, brought together, compared, and read in context. */
export default function Terms() {
  return <Subviews label="Ways to look at terms" className="termsv" tabs={tabs} />;
}
