import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'postgresql',
  schema: './src/server/platform/db/schema.ts',
  out: './src/server/platform/db/migrations',
  casing: 'snake_case',
});
