import '@fontsource-variable/instrument-sans/index.css';
import '@fontsource-variable/newsreader/opsz.css';
import '@fontsource-variable/spline-sans-mono/index.css';
import InitColorSchemeScript from '@mui/material/InitColorSchemeScript';
import { AppRouterCacheProvider } from '@mui/material-nextjs/v16-appRouter';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { Providers } from '../components/frame/Providers.tsx';

export const metadata: Metadata = {
  title: 'Herzschlag',
  description: 'From what each pin must do to the timer settings, the waveform, the verdict and the code.',
};

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? '';
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <InitColorSchemeScript attribute="data-scheme" nonce={nonce} />
        <AppRouterCacheProvider options={{ prepend: true, nonce }}>
          <Providers>{children}</Providers>
        </AppRouterCacheProvider>
      </body>
    </html>
  );
}
