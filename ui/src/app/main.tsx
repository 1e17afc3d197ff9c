import { required } from '../lib/required';
import '@fontsource-variable/source-sans-3/wght.css';
import '@fontsource-variable/source-serif-4/standard.css';
import '@fontsource-variable/source-serif-4/standard-italic.css';
import './styles.css';
import '../lib/nonce';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { Refusal } from '../lib/api';
import { Boundary } from '../parts/Boundary';
import { ToastProvider } from '../parts/Toast';
import { TooltipProvider } from '../parts/Tooltip';
import { App } from './App';

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 60_000,
      refetchOnWindowFocus: false,
      // That the server is away is no reason to wait: all is asked again once it is back.
      networkMode: 'always',
      retry: (n, e) => n < 2 && !(e instanceof Refusal),
    },
  },
});

createRoot(required(document.getElementById('root'))).render(
  <StrictMode>
    <Boundary what="The application">
      <QueryClientProvider client={client}>
        <TooltipProvider>
          <ToastProvider>
            <BrowserRouter>
              <App />
            </BrowserRouter>
          </ToastProvider>
        </TooltipProvider>
      </QueryClientProvider>
    </Boundary>
  </StrictMode>,
);
