import '@fontsource-variable/source-sans-3/wght.css';
import '@fontsource-variable/source-serif-4/standard.css';
import '@fontsource-variable/source-serif-4/standard-italic.css';
import '../styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Navigate, Route, Routes, useParams } from 'react-router';
import { Refusal } from '../lib/api';
import { useLiveEvents } from '../lib/live';
import Studies from '../studies/Studies';
import Shell from './Shell';

const Load = lazy(() => import('../load/Load'));
const Add = lazy(() => import('../load/Add'));

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 60_000,
      refetchOnWindowFocus: false,
      retry: (n, e) => n < 2 && !(e instanceof Refusal && e.status >= 400),
    },
  },
});

function ToTerms() {
  return <Navigate to={`/q/${useParams().question}/terms`} replace />;
}

function App() {
  useLiveEvents();
  return (
    <Suspense fallback={<main className="lone" />}>
      <Routes>
        <Route path="/" element={<Studies />} />
        <Route path="/load" element={<Load />} />
        <Route path="/add/:question/:kind" element={<Add />} />
        <Route path="/q/:question" element={<ToTerms />} />
        <Route path="/q/:question/:view" element={<Shell />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
    </Suspense>
  );
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
