import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'postgresql',
  schema: ['./src/server/*/tables.ts', './src/server/platform/work/tables.ts'],
  out: './src/server/platform/db/migrations',
  casing: 'snake_case',
});
