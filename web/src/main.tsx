import '@fontsource/newsreader/400.css';
import '@fontsource/newsreader/400-italic.css';
import '@fontsource/newsreader/500.css';
import '@fontsource/ibm-plex-sans/400.css';
import '@fontsource/ibm-plex-sans/500.css';
import '@fontsource/ibm-plex-sans/600.css';
import '@fontsource/ibm-plex-mono/400.css';
import '@fontsource/ibm-plex-mono/500.css';
import { CssBaseline, ThemeProvider } from '@mui/material';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { passing } from './api/client';
import { App } from './App';
import { theme } from './theme';

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // What may go well later is asked for until it does: a page that was open while the server restarted goes on by itself.
      retry: (count, error) => passing(error) || count < 1,
      retryDelay: (count) => Math.min(500 * 2 ** count, 8000),
      networkMode: 'always',
      refetchOnWindowFocus: false,
      staleTime: 5000,
    },
  },
});

createRoot(document.getElementById('root')!).render(
  <QueryClientProvider client={queries}>
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </ThemeProvider>
  </QueryClientProvider>,
);
