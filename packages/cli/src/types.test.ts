import { execFile } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';

const run = promisify(execFile);
const program = join(process.cwd(), 'packages/cli/bin/ephoros.mjs');
// Within the project, so that its packages are found.
const folder = join(process.cwd(), '.ephoros/test/types');

const usage = `
import { createClient, date } from '@ephoros/client';
import type { Tables } from './tables.ts';

const client = createClient<Tables>({ url: '/api' });
const passages = client.table('passages');
const { rows } = await passages
  .columns('id', 'toll', 'status', 'lock.name')
  .where((is) =>
    is.all(
      is.above('toll', 100),
      is.equals('status', 'disputed'),
      is.above('passed_at', new Date()),
      is.atLeast('boat.owner.member_since', date('2020-01-01')),
    ),
  )
  .sort('-toll', 'lock.canal.name')
  .rows();
for (const { id, toll, status, 'lock.name': lock } of rows) {
  const all: [string, string | null, 'disputed' | 'passed' | string, string | null] = [id, toll, status, lock];
  console.log(all);
}
// @ts-expect-error a column that was not requested
console.log(rows[0]?.note);
// @ts-expect-error no such value
passages.where((is) => is.equals('status', 'dispute'));
// @ts-expect-error no such related column
passages.columns('lock.nmae');
// @ts-expect-error a moment is wanted
passages.where((is) => is.above('passed_at', 5));
// What rows hold fits into conditions, and into the address of a row.
const [first] = (await passages.rows()).rows;
if (first !== undefined) {
  passages.where((is) => is.all(is.equals('id', first.id), is.equals('toll', first.toll), is.atLeast('passed_at', first.passed_at)));
  const row: { status: string } = await client.row('passages', [first.id]);
  console.log(row.status);
}
// @ts-expect-error no such table
client.table('passage');
`;

describe('ephoros types', () => {
  let service: TestService;

  beforeAll(async () => {
    service = await startService(testDatabases().lowmere);
    mkdirSync(folder, { recursive: true });
  });

  afterAll(async () => {
    await service.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it('writes types against which questions are checked', async () => {
    const out = join(folder, 'tables.ts');
    const { stdout, stderr } = await run(process.execPath, [
      program,
      'types',
      '--url',
      service.url,
      '--out',
      out,
    ]);
    expect([stdout, stderr]).toEqual(['', `${out}: types of 6 tables\n`]);
    expect(readFileSync(out, 'utf8')).toContain("status: 'expected' | 'waiting' | 'passed'");
    writeFileSync(join(folder, 'usage.ts'), usage);
    const compilerOptions = {
      strict: true,
      noEmit: true,
      module: 'esnext',
      moduleResolution: 'bundler',
      target: 'es2023',
      lib: ['es2023', 'dom'],
      allowImportingTsExtensions: true,
      types: [],
    };
    writeFileSync(join(folder, 'tsconfig.json'), JSON.stringify({ compilerOptions }));
    await run(process.execPath, [
      join(process.cwd(), 'node_modules/typescript/bin/tsc'),
      '-p',
      folder,
    ]);
  }, 60_000);

  it('writes to standard output, and says where there is no service', async () => {
    const { stdout } = await run(process.execPath, [
      program,
      'types',
      '--url',
      `${service.url}/api`,
    ]);
    expect(stdout).toMatch(/^\/\/ Written by `ephoros types`/);
    const away = run(process.execPath, [program, 'types', '--url', 'http://127.0.0.1:9']);
    await expect(away).rejects.toMatchObject({ code: 4 });
  });
});
