import { lazy } from 'react';
import { Subviews } from '../parts/Subviews';

const tabs = {
  left: ['What is left', lazy(() => import('./Queue'))],
  decisions: ['Decisions', lazy(() => import('./Decisions'))],
  agreement: ['Agreement', lazy(() => import('./Agreement'))],
} as const;

/** What no rule has caught, one answer at a time; and how good the coding is. */
export default function Review() {
  return <Subviews label="Ways to review" tabs={tabs} />;
}
