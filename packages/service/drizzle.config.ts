import { defineConfig } from 'drizzle-kit';

/** `npm run migrations -w @ephoros/service`: a further migration where the records have changed. */
export default defineConfig({
  dialect: 'postgresql',
  schema: './src/records/schema.ts',
  out: './migrations',
  schemaFilter: ['ephoros'],
  migrations: { schema: 'ephoros', table: 'migrations' },
});
