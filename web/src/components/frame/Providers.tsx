'use client';

import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { theme } from '../../theme/theme.ts';

/** Answers of the engine are exact and do not age; they are kept for a while and asked for without any network. */
function answers(): QueryClient {
  return new QueryClient({
    defaultOptions: {
      queries: {
        networkMode: 'always',
        retry: false,
        staleTime: Infinity,
        gcTime: 60_000,
        refetchOnWindowFocus: false,
        structuralSharing: false,
      },
    },
  });
}

/** What every page stands in: the theme in its day and night scheme, and the answers of the engine. */
export function Providers({ children }: { children: ReactNode }) {
  const [client] = useState(answers);
  return (
    <QueryClientProvider client={client}>
      <ThemeProvider theme={theme}>
        <CssBaseline enableColorScheme />
        {children}
      </ThemeProvider>
    </QueryClientProvider>
  );
}
