import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: [
    '@electric-sql/pglite',
    'pg-boss',
    'execa',
    'xxhash-addon',
    'piscina',
    'exiftool-vendored',
  ],
  // Types are checked by `npm run check`, once.
  typescript: { ignoreBuildErrors: true },
  // A page's code is loaded when it is first asked for: the start waits for none that nobody opens. The server's code is on this disk:
  // to make it smaller, to map it and to keep what the compiler knows for a next build takes more than half of a build.
  experimental: {
    preloadEntriesOnStart: false,
    serverMinification: false,
    turbopackSourceMaps: false,
    turbopackFileSystemCacheForBuild: false,
  },
  poweredByHeader: false,
  // Answers stay on this computer or its local network. Compressing them took a twentieth of the server's processor time.
  compress: false,
  // Nothing is shown through Next's image reader: it is switched off.
  images: { unoptimized: true },
  headers: async () => [
    { source: '/_next/:path*', headers: [{ key: 'X-Content-Type-Options', value: 'nosniff' }] },
  ],
  reactStrictMode: true,
};

export default config;
