import { lazy } from 'react';
import { Subviews } from '../parts/Subviews';

const tabs = {
  table: ['By segment', lazy(() => import('./BySegment'))],
  differs: ['What differs', lazy(() => import('./Differs'))],
  means: ['Means', lazy(() => import('./Means'))],
  together: ['Together', lazy(() => import('./Together'))],
  people: ['Same people', lazy(() => import('./SamePeople'))],
  questions: ['Questions', lazy(() => import('./Questions'))],
  kept: ['Kept', lazy(() => import('./Kept'))],
} as const;

/** Category frequency by segment, what differs most, numbers with and without each category, and the charts that were kept. */
export default function Chart() {
  return <Subviews label="Ways to look at the figures" tabs={tabs} />;
}
