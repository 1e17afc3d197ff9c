import { lazy, Suspense, useEffect } from 'react';
import { Navigate, Route, Routes, useLocation, useParams } from 'react-router';
import { useFocusKept } from '../lib/focus';
import { useLiveEvents } from '../lib/live';
import { useTheme } from '../lib/theme';
import { Boundary } from '../parts/Boundary';
import { Skeleton } from '../parts/Text';
import { Lost } from './Lost';

const shell = () => import('./Shell');
const Shell = lazy(shell);
const Studies = lazy(() => import('../studies/Studies'));
const Load = lazy(() => import('../load/Load'));
const Add = lazy(() => import('../load/Add'));

function ToTerms() {
  return <Navigate to={`/q/${useParams().question}/terms`} replace />;
}

/** The pages of the application. */
export function App() {
  useLiveEvents();
  useTheme();
  useFocusKept();
  const { pathname } = useLocation();
  useEffect(() => {
    // Most go on to a question: what it needs is fetched while the first page is read.
    const timer = setTimeout(() => shell().catch(() => {}), 1500);
    return () => clearTimeout(timer);
  }, []);
  return (
    <div className="flex h-dvh flex-col max-sm:h-auto">
      <Lost />
      <div className="min-h-0 flex-1 overflow-auto">
        <Boundary what="This page" key={pathname}>
          <Suspense fallback={<Opening />}>
            <Routes>
              <Route path="/" element={<Studies />} />
              <Route path="/load" element={<Load />} />
              <Route path="/add/:question/:kind" element={<Add />} />
              <Route path="/q/:question" element={<ToTerms />} />
              <Route path="/q/:question/:view" element={<Shell />} />
              <Route path="*" element={<Navigate to="/" replace />} />
            </Routes>
          </Suspense>
        </Boundary>
      </div>
    </div>
  );
}

const Opening = () => (
  <main className="mx-auto max-w-215 px-6 py-8.5">
    <Skeleton lines={5} />
  </main>
);
