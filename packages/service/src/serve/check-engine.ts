import { serverNeeds } from '@ephoros/core/sql';
import type pg from 'pg';

/** What of it a server has. */
export interface FoundNeed {
  readonly what: string;
  readonly there: boolean;
  /** What does not work without it; undefined where nothing does. */
  readonly without: string | undefined;
  /** What the server stated, where it is not there. */
  readonly text?: string;
}

/** Tries everything that the service asks of a server, one thing after the other. */
export async function findNeeds(client: pg.Client): Promise<readonly FoundNeed[]> {
  const found: FoundNeed[] = [];
  for (const { what, statement, without } of serverNeeds) {
    try {
      await client.query(statement);
      found.push({ what, there: true, without });
    } catch (thrown) {
      const text = thrown instanceof Error ? thrown.message : String(thrown);
      found.push({ what, there: false, without, text });
    }
  }
  return found;
}
