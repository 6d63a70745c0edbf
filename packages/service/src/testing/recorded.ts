import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import type { ServeOptions } from '../index.ts';
import { startService, type TestService } from './service.ts';

export interface RecordedService {
  readonly service: TestService;
  /** Of the database whose tables are served. */
  readonly url: string;
  /** Of the database that has the records. */
  readonly records: string;
  /** Stops it, and drops its databases. */
  readonly close: () => Promise<void>;
}

/** A service over a database of its own, with records in another one. */
export async function recordedService(
  name: string,
  statements: readonly string[],
  more: Partial<ServeOptions> = {},
): Promise<RecordedService> {
  const tables = await freshDatabase(name, statements);
  const records = await freshDatabase(`${name}_records`, []);
  const service = await startService(tables.url, '', { records: records.url, ...more });
  return {
    service,
    url: tables.url,
    records: records.url,
    close: async () => {
      await service.close();
      await tables.drop();
      await records.drop();
    },
  };
}
