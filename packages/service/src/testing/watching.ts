import { compileWritten, type Statement } from '@ephoros/core/sql';
import type pg from 'pg';

/** The statement that asks how much was written to a table. */
export function writtenTo(name: string): Statement {
  return compileWritten([name], () => ({ schema: 'public', name }));
}

/** How many other sessions run a statement with such words in it. */
export async function runningLike(client: pg.Client, words: string): Promise<number> {
  const { rows } = await client.query<{ n: number }>(
    `select count(*)::int as n from pg_stat_activity
     where datname = current_database() and state = 'active' and strpos(query, $1) > 0 and pid <> pg_backend_pid()`,
    [words],
  );
  return rows[0]?.n ?? 0;
}
