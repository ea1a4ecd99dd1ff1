import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['@electric-sql/pglite', 'pg-boss', 'execa', 'xxhash-addon', 'piscina', 'exiftool-vendored'],
  // Types are checked by `npm run check`, once.
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  reactStrictMode: true,
};

export default config;
