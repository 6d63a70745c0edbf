import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import type { ServeOptions } from '../index.ts';
import { startService, type TestService } from './service.ts';

export interface OwnDatabase {
  readonly service: TestService;
  readonly url: string;
  /** A connection of the test's own to the database. */
  readonly database: pg.Client;
  /** Stops the service, and drops the database. */
  readonly close: () => Promise<void>;
}

/** A service over a database of its own, in which the test writes as well. */
export async function serviceOverOwn(
  name: string,
  statements: readonly string[],
  more: Partial<ServeOptions> = {},
): Promise<OwnDatabase> {
  const { url, drop } = await freshDatabase(name, statements);
  const database = new pg.Client({ connectionString: url });
  await database.connect();
  const service = await startService(url, '', more);
  return {
    service,
    url,
    database,
    close: async () => {
      await service.close();
      await database.end();
      await drop();
    },
  };
}
