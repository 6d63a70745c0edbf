import pg from 'pg';
import { until } from '../../packages/core/src/testing/until.ts';
import { makeScenario, startTraffic } from './index.ts';
import { perform, testDatabases } from './testing/databases.ts';

const { maintenance } = testDatabases();
const database = 'ephoros_traffic';
const url = maintenance.replace(/postgres$/, database);

describe('keepers at work', () => {
  beforeAll(() =>
    makeScenario({ maintenanceUrl: maintenance, database, url, passages: 500, seed: 7 }),
  );
  afterAll(() => perform(maintenance, [`drop database ${database} with (force)`]));

  it('record, correct and strike passages, until they are stopped', async () => {
    const texts: string[] = [];
    const traffic = startTraffic({ url, pause: 2, say: (line) => texts.push(line) });
    await until(
      () => Promise.resolve(traffic.done()),
      (done) => Object.values(done).every((count) => count > 2),
    );
    await traffic.stop();
    const { recorded, struck } = traffic.done();
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    const { rows } = await client.query<{ all: number; corrected: number; old: number }>(`
      select count(*)::int as all, count(*) filter (where status = 'corrected')::int as corrected,
        count(*) filter (where id <= 500)::int as old from passages`);
    await client.end();
    expect(texts).toEqual([]);
    expect(rows[0]?.all).toBe(500 + recorded - struck);
    expect(rows[0]?.old).toBe(500);
    expect(rows[0]?.corrected).toBeGreaterThan(0);
  });
});
