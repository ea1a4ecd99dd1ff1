import '@fontsource/atkinson-hyperlegible-next/400.css';
import '@fontsource/atkinson-hyperlegible-next/700.css';
import '@fontsource/barlow-condensed/500.css';
import '@fontsource/barlow-condensed/600.css';
import '@fontsource/jetbrains-mono/400.css';
import '@fontsource/jetbrains-mono/700.css';
import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import '../ui/global.css';
import { Providers } from '../ui/Providers';
import { Shell } from '../ui/shell/Shell';

export const metadata: Metadata = { title: 'Sort Shelf', description: 'Footage, named, sorted and paired', icons: { icon: 'data:,' } };

export default function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <body><Providers><Shell>{children}</Shell></Providers></body>
    </html>
  );
}
