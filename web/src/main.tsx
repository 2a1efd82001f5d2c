import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { ApiFailure } from './api/client';
import { App } from './App';
import './app.css';
import { applyDisplay } from './parts/display';
import { Faults } from './parts/Faults';
import { Notices } from './parts/Notices';

applyDisplay();

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      refetchOnWindowFocus: true,
      retry: (failures, error) => failures < 2 && !(error instanceof ApiFailure && error.status >= 400 && error.status < 500),
    },
  },
});

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Notices>
            <Faults place="">
              <App />
            </Faults>
          </Notices>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
