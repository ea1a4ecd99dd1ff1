'use client';
import { AppRouterCacheProvider } from '@mui/material-nextjs/v16-appRouter';
import InitColorSchemeScript from '@mui/material/InitColorSchemeScript';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { COLOUR_VARIABLES, theme } from './theme';
import { useComposing } from './useComposing';
import { useFaultyPictures } from './useFaultyPictures';

export const newQueries = (): QueryClient =>
  new QueryClient({
    defaultOptions: {
      // The server is on this computer: where the browser finds no network, it is asked all the same.
      queries: { networkMode: 'always', retry: 1, staleTime: 2000, refetchOnWindowFocus: true },
      mutations: { networkMode: 'always' },
    },
  });

export function Providers({ children, nonce }: { children: ReactNode; nonce: string | undefined }) {
  const [queries] = useState(newQueries);
  useFaultyPictures();
  useComposing();
  return (
    <AppRouterCacheProvider>
      <InitColorSchemeScript attribute="data-scheme" defaultMode="light" nonce={nonce} />
      <style>{COLOUR_VARIABLES}</style>
      <ThemeProvider theme={theme} defaultMode="light">
        <QueryClientProvider client={queries}>{children}</QueryClientProvider>
      </ThemeProvider>
    </AppRouterCacheProvider>
  );
}
