import { lazy, Suspense, useEffect, useRef } from 'react';
import { Navigate, Route, Routes, useLocation, useParams } from 'react-router';
import { useFocusKept } from '../lib/focus';
import { useLiveEvents } from '../lib/live';
import { useSession } from '../lib/session';
import { useTheme } from '../lib/theme';
import { Boundary } from '../parts/Boundary';
import { Dialog } from '../parts/Dialog';
import { Skeleton } from '../parts/Text';
import { SignIn, SignInPage } from '../people/SignIn';
import { Lost } from './Lost';

const shell = () => import('./Shell');
const Shell = lazy(shell);
const Studies = lazy(() => import('../studies/Studies'));
const Load = lazy(() => import('../load/Load'));
const Add = lazy(() => import('../load/Add'));
const Account = lazy(() => import('../people/Account'));
const People = lazy(() => import('../people/People'));
const Log = lazy(() => import('../people/Log'));

function ToTerms() {
  return <Navigate to={`/q/${useParams().question}/terms`} replace />;
}

/** The pages of the application. */
export function App() {
  const { session, isPending } = useSession();
  const out = session?.on === true && !session.name;
  const came = useRef(false);
  if (session && !out) came.current = true;
  useLiveEvents(!!session && !out);
  useTheme();
  useFocusKept();
  const { pathname } = useLocation();
  useEffect(() => {
    // Most go on to a question: what it needs is fetched while the first page is read.
    const timer = setTimeout(() => shell().catch(() => {}), 1500);
    return () => clearTimeout(timer);
  }, []);
  if (isPending) return <Opening />;
  if (session && out && !came.current) return <SignInPage session={session} />;
  return (
    <div className="flex h-dvh flex-col max-sm:h-auto">
      <Lost />
      {session && out && (
        // What is on the page stays as it is below: nothing that was typed is lost.
        <Dialog title="Sign in again" close={() => {}}>
          <SignIn session={session} again />
        </Dialog>
      )}
      <div className="min-h-0 flex-1 overflow-auto">
        <Boundary what="This page" key={pathname}>
          <Suspense fallback={<Opening />}>
            <Routes>
              <Route path="/" element={<Studies />} />
              <Route path="/load" element={<Load />} />
              <Route path="/add/:question/:kind" element={<Add />} />
              <Route path="/account" element={<Account />} />
              <Route path="/people" element={<People />} />
              <Route path="/log" element={<Log />} />
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
