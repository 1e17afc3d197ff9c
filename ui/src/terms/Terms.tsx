import { lazy } from 'react';
import { Subviews } from '../parts/Subviews';

const tabs = {
  ledger: ['Ledger', lazy(() => import('./Ledger'))],
  values: ['Values', lazy(() => import('./Values'))],
  suggestions: ['Suggestions', lazy(() => import('./Suggestions'))],
  compare: ['Compare', lazy(() => import('./Compare'))],
  time: ['Over time', lazy(() => import('./Rising'))],
  network: ['Network', lazy(() => import('./Network'))],
  whole: ['Whole text', lazy(() => import('./Whole'))],
  lexicon: ['Lexicon', lazy(() => import('./Lexicon'))],
} as const;
/** What is said: counted, brought together, compared, and read in context. */
export default function Terms() {
  return <Subviews label="Ways to look at terms" tabs={tabs} />;
}
