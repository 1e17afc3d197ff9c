import { lazy } from 'react';
import { Subviews } from '../frame/Subviews';
import Frame from './code/Frame';

const tabs = {
  frame: ['Frame', Frame],
  drafts: ['Drafts', lazy(() => import('./code/Drafts'))],
  health: ['Health', lazy(() => import('./code/Health'))],
  revisions: ['Revisions', lazy(() => import('./code/Revisions'))],
  files: ['In and out', lazy(() => import('./code/InOut'))],
} as const;
/** The code frame: written, proposed, looked over, compared with what it was, carried in and out. */
export default function Code() {
  return <Subviews label="Ways to look at the code frame" className="codeviews" tabs={tabs} />;
}
