import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { start, type Ended } from './testing/command.ts';

describe('questions on the command line', () => {
  let service: TestService;
  let records: { url: string; drop: () => Promise<void> };

  beforeAll(async () => {
    records = await freshDatabase('records_of_commands', []);
    service = await startService(testDatabases().lowmere, '', { records: records.url });
  });

  afterAll(async () => {
    await service.close();
    await records.drop();
  });

  const request = (...args: string[]): Promise<Ended> =>
    start(args, { EPHOROS_URL: service.url }).ended;

  it('are about selected rows, by keys of a file or of standard input', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'ephoros-keys-'));
    const file = join(folder, 'keys.txt');
    try {
      writeFileSync(file, '3\n\n5\r\n3\n9999999\n');
      const requests = ['rows', 'locks', '--columns', 'id', '--selection', file, '--csv'];
      const rows = await request(...requests);
      expect([rows.code, rows.stdout]).toEqual([0, 'id\r\n3\r\n5\r\n']);
      expect(rows.stderr).toContain('1 of 3 keys have no row (any more).');
      const narrowed = await request(...requests, '--filter', 'id > 3 OR id = 1');
      expect([narrowed.stdout, narrowed.stderr]).toEqual(['id\r\n5\r\n', '']);
      const counted = await request('aggregates', 'locks', '--selection', file, '--json');
      expect(JSON.parse(counted.stdout)).toMatchObject({ values: { 'count()': 2 } });
      const piped = start(['aggregates', 'locks', '--selection', '-', '--json'], {
        EPHOROS_URL: service.url,
      });
      piped.child.stdin?.end('7\n8\n9');
      expect(JSON.parse((await piped.ended).stdout)).toMatchObject({ values: { 'count()': 3 } });
      writeFileSync(file, 'three\n');
      const wrong = await request(...requests);
      expect([wrong.code, wrong.stderr]).toEqual([3, expect.stringContaining("'three'")]);
      writeFileSync(file, Array.from({ length: 1_001 }, (_, id) => id).join('\n'));
      const many = await request(...requests);
      expect(many.code).toBe(0);
      expect(many.stderr).toContain('of 1001 keys have no row (any more).');
      const bare = await startService(testDatabases().lowmere);
      const refused = await request(...requests, '--url', bare.url);
      await bare.close();
      expect([refused.code, refused.stderr]).toEqual([3, expect.stringContaining('--records')]);
      writeFileSync(file, Array.from({ length: 3_000 }, (_, id) => id + 1).join('\n'));
      const counts = ['aggregates', 'passages', '--selection', file, '--json'];
      expect(JSON.parse((await request(...counts)).stdout)).toMatchObject({
        values: { 'count()': 3_000 },
      });
      // What was stored for a question is dropped behind it.
      const left = new pg.Client({ connectionString: records.url });
      await left.connect();
      expect((await left.query('select * from ephoros.selections')).rows).toEqual([]);
      await left.end();
      const lost = await request('rows', 'locks', '--selection', join(folder, 'none.txt'));
      expect([lost.code, lost.stderr]).toEqual([2, expect.stringContaining('no such file')]);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });

  it('show single rows, columns down and rows across, and where they differ', async () => {
    const one = await request('row', 'locks', '1');
    expect([one.code, one.stderr]).toEqual([0, '']);
    expect(one.stdout).toMatch(/^The row\n  Id {2,}1\n/);
    // What a reference leads to by its name, and by its number.
    expect(one.stdout).toMatch(/\nRefers to\n  Canal id {2,}\S.*\S \(\d+\)\n/);
    const two = await request('row', 'locks', '2', '1', '--differences');
    expect(two.stdout).toMatch(/\n≠ Name {2,}\S.* {2,}\S.*\n/);
    expect(two.stdout.split('\n').filter((line) => line.startsWith('  '))).toEqual([]);
    const json = await request('row', 'locks', '2', '--json');
    expect(JSON.parse(json.stdout).rows[0]).toMatchObject({ id: 2 });
    const gone = await request('row', 'locks', '1', '4711');
    expect([gone.code, gone.stderr]).toEqual([3, 'No row has the key 4711 (any more).\n']);
    expect(gone.stdout).toContain('The row');
    const wrong = await request('row', 'locks', 'one');
    expect([wrong.code, wrong.stderr]).toEqual([3, expect.stringContaining('whole number')]);
  });

  it('show what rows refer to by its name, to people', async () => {
    const table = await request('rows', 'locks', '--limit', '1');
    expect(table.stdout.split('\n')[0]).toMatch(/^id +canal\.name +name /);
    const script = await request('rows', 'locks', '--limit', '1', '--csv');
    expect(script.stdout).toMatch(/^id,canal_id,name,/);
  });
});
