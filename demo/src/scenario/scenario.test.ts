import pg from 'pg';
import { makeScenario } from '../index.ts';
import { perform, testDatabases } from '../testing/databases.ts';

const { maintenance } = testDatabases();

async function made(database: string, seed: number): Promise<Record<string, unknown>> {
  const url = maintenance.replace(/postgres$/, database);
  await makeScenario({ maintenanceUrl: maintenance, database, url, passages: 5000, seed });
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const { rows } = await client.query<Record<string, unknown>>(`
    select md5(string_agg(p::text, '' order by id)) as print, count(*)::int as passages,
      count(distinct status)::int as statuses, count(distinct lock_id)::int as locks,
      count(*)::int - count(distinct passed_at)::int as ties,
      count(*) filter (where toll is null)::int as exempt, count(note)::int as noted,
      max(length(note))::int as longest,
      bool_or(note like '%\\%%') as percent, bool_or(note like '%"%') as quotes,
      (select count(*)::int from boats) as boats,
      (select bool_or(name ~ '[^ -~]') from owners) as accents,
      (select max(n)::int from (select count(*) n from passages group by lock_id) l) as busiest,
      (count(*) filter (where extract(month from passed_at) in (6, 7)))::float8
        / count(*) filter (where extract(month from passed_at) in (1, 2)) as season
    from passages p`);
  await client.end();
  return rows[0] ?? {};
}

describe('the Lowmere Navigation', () => {
  it('is the same for the same seed and another for another, and lifelike', async () => {
    const first = await made('ephoros_scenario', 7);
    expect(first).toMatchObject({
      passages: 5000,
      boats: 63,
      percent: true,
      quotes: true,
      accents: true,
      statuses: 7,
    });
    expect(first.ties).toBeGreaterThan(500);
    expect(first.exempt).toBeGreaterThan(300);
    expect(first.noted).toBeLessThan(1500);
    expect(first.longest).toBeGreaterThan(1000);
    expect(first.busiest).toBeGreaterThan(3 * (5000 / 64));
    expect(first.season).toBeGreaterThan(2);
    expect((await made('ephoros_scenario_again', 7)).print).toBe(first.print);
    expect((await made('ephoros_scenario_again', 8)).print).not.toBe(first.print);
    await perform(maintenance, [
      'drop database ephoros_scenario',
      'drop database ephoros_scenario_again',
    ]);
  });
});
