import pg from 'pg';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from './service.ts';

/** What tests of a service have at hand: it, and the database that it serves. */
interface Lowmere {
  readonly service: TestService;
  readonly client: pg.Client;
}

/** A service over the demo's data for all tests of a file, and a connection of one's own to them, in UTC. */
export function overLowmere(): Lowmere {
  const { lowmere } = testDatabases();
  const client = new pg.Client({ connectionString: lowmere });
  const at: { client: pg.Client; service?: TestService } = { client };
  beforeAll(async () => {
    at.service = await startService(lowmere);
    await client.connect();
    await client.query('set timezone = UTC');
  });
  afterAll(async () => {
    await at.service?.close();
    await client.end();
  });
  // It is there by the time a test asks for it.
  return at as Lowmere;
}
