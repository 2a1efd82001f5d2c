import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'postgresql',
  schema: './server/src/base/db/schema/index.ts',
  out: './server/migrations',
  casing: 'snake_case',
});
