import '@fontsource/atkinson-hyperlegible-next/400.css';
import '@fontsource/atkinson-hyperlegible-next/700.css';
import '@fontsource/barlow-condensed/500.css';
import '@fontsource/barlow-condensed/600.css';
import '@fontsource/jetbrains-mono/400.css';
import '@fontsource/jetbrains-mono/700.css';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import '../ui/platform/global.css';
import { Providers } from '../ui/platform/Providers';

export const metadata: Metadata = {
  title: 'Sort Shelf',
  description: 'Footage, named, sorted and paired',
  icons: { icon: 'data:,' },
};

/** Pages are made as they are asked for: their scripts bear the nonce of the answer's policy (`proxy.ts`). */
export default async function Layout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Providers nonce={nonce}>{children}</Providers>
      </body>
    </html>
  );
}
