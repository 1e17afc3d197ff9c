import { lazy } from 'react';
import { Subviews } from '../parts/Subviews';
import Frame from './Frame';

const tabs = {
  frame: ['Frame', Frame],
  drafts: ['Drafts', lazy(() => import('./Drafts'))],
  health: ['Health', lazy(() => import('./Health'))],
  revisions: ['Revisions', lazy(() => import('./Revisions'))],
  files: ['Import and export', lazy(() => import('./InOut'))],
} as const;
/** The code frame: written, proposed, looked over, compared with what it was, carried in and out. */
export default function Code() {
  return <Subviews label="Ways to look at the code frame" tabs={tabs} />;
}
