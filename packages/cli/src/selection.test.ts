import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { start, type Ended } from './testing/command.ts';

describe('questions on the command line', () => {
  let service: TestService;

  beforeAll(async () => {
    service = await startService(testDatabases().lowmere);
  });

  afterAll(() => service.close());

  const ask = (...args: string[]): Promise<Ended> =>
    start(args, { EPHOROS_URL: service.url }).ended;

  it('are about selected rows, by keys of a file or of standard input', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'ephoros-keys-'));
    const file = join(folder, 'keys.txt');
    try {
      writeFileSync(file, '3\n\n5\r\n3\n9999999\n');
      const asked = ['rows', 'locks', '--columns', 'id', '--selection', file, '--csv'];
      const rows = await ask(...asked);
      expect([rows.code, rows.stdout]).toEqual([0, 'id\r\n3\r\n5\r\n']);
      expect(rows.stderr).toContain('1 of 3 keys have no row (any more).');
      const narrowed = await ask(...asked, '--filter', 'id > 3 OR id = 1');
      expect([narrowed.stdout, narrowed.stderr]).toEqual(['id\r\n5\r\n', '']);
      const counted = await ask('aggregates', 'locks', '--selection', file, '--json');
      expect(JSON.parse(counted.stdout)).toMatchObject({ values: { 'count()': 2 } });
      const piped = start(['aggregates', 'locks', '--selection', '-', '--json'], {
        EPHOROS_URL: service.url,
      });
      piped.child.stdin?.end('7\n8\n9');
      expect(JSON.parse((await piped.ended).stdout)).toMatchObject({ values: { 'count()': 3 } });
      writeFileSync(file, 'three\n');
      const wrong = await ask(...asked);
      expect([wrong.code, wrong.stderr]).toEqual([3, expect.stringContaining("'three'")]);
      writeFileSync(file, Array.from({ length: 1_001 }, (_, id) => id).join('\n'));
      const many = await ask(...asked);
      expect([many.code, many.stderr]).toEqual([2, expect.stringContaining('1001 keys')]);
      const lost = await ask('rows', 'locks', '--selection', join(folder, 'none.txt'));
      expect([lost.code, lost.stderr]).toEqual([2, expect.stringContaining('no such file')]);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});
