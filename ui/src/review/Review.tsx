import { lazy } from 'react';
import { Subviews } from '../parts/Subviews';

const tabs = {
  left: ['What is left', lazy(() => import('./Left'))],
  likely: ['Likely categories', lazy(() => import('./LikelyOnes'))],
  decisions: ['Decisions', lazy(() => import('./Decisions'))],
  agreement: ['Agreement', lazy(() => import('./Agreement'))],
  texts: ['Try answers', lazy(() => import('./Texts'))],
} as const;

/** What no rule has caught, and how to work through it; what was decided by hand; and how good the coding is. */
export default function Review() {
  return <Subviews label="Ways to review" tabs={tabs} />;
}
