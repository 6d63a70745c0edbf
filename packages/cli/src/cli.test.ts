import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { start, type Ended } from './testing/command.ts';

const { lowmere } = testDatabases();

describe('questions on the command line', () => {
  let service: TestService;

  beforeAll(async () => {
    service = await startService(lowmere, 'tables: { passages: { sort: -passed_at } }');
  });

  afterAll(() => service.close());

  const send = (...args: string[]): Promise<Ended> =>
    start(args, { EPHOROS_URL: service.url }).ended;

  it('list the tables', async () => {
    const { code, stdout } = await send('tables');
    expect(code).toBe(0);
    expect(stdout).toMatch(/passages +Passages +table +20,000\n/);
    const json = JSON.parse((await send('tables', '--json')).stdout) as { tables: unknown[] };
    expect(json.tables).toHaveLength(6);
    expect((await send('tables', '--csv')).stdout).toContain('passages,Passages,table,20000\r\n');
  });

  it('send headers, and a token of the environment', async () => {
    const observed: (string | undefined)[] = [];
    const wanted = createServer((request, response) => {
      observed.push(
        `${request.headers.authorization ?? ''} ${String(request.headers['x-desk'] ?? '')}`,
      );
      response.setHeader('Content-Type', 'application/json');
      response.end('{"title":"x","tables":[],"values":[]}');
    }).listen(0, '127.0.0.1');
    await new Promise((resolve) => wanted.once('listening', resolve));
    const { port } = wanted.address() as AddressInfo;
    const environment = { EPHOROS_URL: `http://127.0.0.1:${port}`, EPHOROS_TOKEN: 'secret' };
    try {
      await start(['tables'], environment).ended;
      await start(['aggregates', 'passages', '--header', 'X-Desk: 7'], environment).ended;
      await start(['tables', '--header', 'authorization: Basic x'], environment).ended;
      expect(observed).toEqual(['Bearer secret ', 'Bearer secret 7', 'Basic x ']);
      const { stdout } = await start(['tables', '--help'], environment).ended;
      expect(stdout).not.toContain('secret');
      const wrong = await start(['tables', '--header', 'nothing'], environment).ended;
      expect([wrong.code, wrong.stderr]).toEqual([
        2,
        expect.stringContaining('a colon and a value'),
      ]);
    } finally {
      wanted.close();
    }
  });

  it('describe a table', async () => {
    const { code, stdout } = await send('describe', 'passages');
    expect(code).toBe(0);
    expect(stdout).toContain('key: id');
    expect(stdout).toMatch(/toll +number +filter, sort \(indexed\), group, sum +In florins/);
    expect(stdout).toMatch(
      /wait_minutes +whole number, never null +filter, sort, group, sum +From/,
    );
    expect(stdout).toMatch(/boat_id +whole number, never null +filter, sort \(indexed\), group +∅/);
  });

  it('show rows aligned, numbers to the right, with their place in the result', async () => {
    const args = [
      'rows',
      'passages',
      '--columns',
      'id,toll,note',
      '--sort',
      'id',
      '--limit',
      '50',
      '--page',
      '5',
    ];
    const { code, stdout } = await send(...args);
    expect(code).toBe(0);
    const lines = stdout.split('\n');
    expect(lines[0]).toMatch(/^ id +toll {2}note$/);
    expect(lines[2]).toMatch(/^201 {2}/);
    expect(lines.at(-2)).toBe('rows 201–250 of 20,000');
    // No colours where there is no terminal.
    expect(stdout).not.toContain('\u001b');
    expect(stdout).toContain('∅');
  });

  it('give rows as JSON and CSV for scripts', async () => {
    const args = [
      'rows',
      'passages',
      '--columns',
      'id,note',
      '--filter',
      "note LIKE '\"%'",
      '--limit',
      '1',
    ];
    const answer = JSON.parse((await send(...args, '--json')).stdout) as { rows: { id: string }[] };
    const { stdout } = await send(...args, '--csv');
    expect(stdout).toBe(
      `id,note\r\n${answer.rows[0]?.id ?? ''},"""Mind the cill"" repeated twice"\r\n`,
    );
  });

  it('draw groups as an outline, as deep as requested, and say what is left out', async () => {
    const args = ['groups', 'passages', '--group', 'lock.canal.name,status'];
    const more = ['--aggregate', 'sum(toll),share()', '--sort', '-sum(toll)', '--limit', '2'];
    const { code, stdout } = await send(...args, ...more, '--depth', '2');
    expect(code).toBe(0);
    const lines = stdout.split('\n');
    expect(lines[0]).toMatch(/^lock\.canal\.name › status +rows +sum\(toll\) +share\(\)$/);
    expect(lines[2]).toMatch(/^\S.* [\d,]+ +[\d,]+\.\d\d +\d+\.\d%$/);
    expect(lines[3]).toMatch(/^ {2}passed +[\d,]+ +[\d,]+\.\d\d/);
    expect(lines[5]).toMatch(/^ {2}… \d more$/);
    expect(lines.at(-2)).toBe('lines 1–2 of 8');
    const closed = await send(...args, ...more);
    expect(closed.stdout.split('\n')[2]).toMatch(/ \(7\) +[\d,]+/);
  });

  it('give groups as nested JSON and as flat CSV', async () => {
    const args = ['groups', 'boats', '--group', 'hull,initial(name)', '--limit', '30'];
    const deep = JSON.parse((await send(...args, '--depth', '2', '--json')).stdout) as {
      groups: { value: string; count: number; groups: { value: string; count: number }[] }[];
    };
    for (const { count, groups } of deep.groups) {
      expect(groups.reduce((sum, one) => sum + one.count, 0)).toBe(count);
    }
    const { stdout } = await send(...args, '--depth', '2', '--csv');
    const [head, ...lines] = stdout.trimEnd().split('\r\n');
    expect(head).toBe('hull,initial(name),rows');
    expect(lines).toEqual(
      deep.groups.flatMap(({ value, groups }) =>
        groups.map((one) => `${value},${one.value},${one.count}`),
      ),
    );
    const inside = await send(...args, '--path', '["tug"]', '--csv');
    expect(inside.stdout).toContain('initial(name),rows\r\n');
  });

  it('list the values of a column, and draw how numbers are spread', async () => {
    const listed = await send('values', 'passages', 'status', '--sort', '-count()');
    expect(listed.code).toBe(0);
    expect(listed.stdout).toMatch(/^status +rows\n/);
    expect(listed.stdout).toMatch(/\npassed +[\d,]+\n/);
    expect(listed.stdout).toContain('values 1–7 of 7\n');
    const spread = await send('values', 'passages', 'toll', '--bins', '5', '--limit', '1');
    expect(spread.stdout).toMatch(/values 1–1 of [\d,]+; from 4\.00 to [\d.]+\n/);
    expect(spread.stdout.match(/█+/g)).toHaveLength(5);
    const plain = await send('values', 'passages', 'lock_id', '--no-counts', '--limit', '3');
    expect(plain.stdout).toMatch(/^lock_id\n─+\n +1\n +2\n +3\nvalues 1–3; from 1 to \d+\n/);
    const csv = await send('values', 'passages', 'lock.canal.name', '--containing', 'lev', '--csv');
    expect(csv.stdout).toMatch(/^lock\.canal\.name,rows\r\nHeron Level,\d+\r\n$/);
  });

  it('show aggregates of all matching rows', async () => {
    const args = ['aggregates', 'passages', '--aggregate', 'count(),sum(toll)'];
    const { code, stdout } = await send(...args);
    expect(code).toBe(0);
    expect(stdout).toMatch(/\ncount\(\) +20000\nsum\(toll\) +\d+\.\d\d\n$/);
    const json = JSON.parse((await send(...args, '--json')).stdout) as { values: object };
    expect(json.values).toMatchObject({ 'count()': 20_000 });
    expect((await send('aggregates', 'passages', '--csv')).stdout).toBe('count()\r\n20000\r\n');
  });

  it('refuse groups with carets, and say what is missing', async () => {
    const { code, stderr } = await send('groups', 'passages', '--group', 'bin(toll,0),hul');
    expect(code).toBe(3);
    const lead = ' '.repeat('  --group bin(toll,'.length);
    expect(stderr).toContain(`  --group bin(toll,0),hul\n${lead}^\n`);
    expect(stderr).toContain('Unknown column hul in table passages.');
    expect((await send('groups', 'passages')).code).toBe(2);
    expect((await send('groups', 'passages', '--group', 'status', '--depth', '9')).code).toBe(2);
    expect((await send('groups', '--help')).stdout).toContain('Examples:');
  });

  it('show every error of a query with a caret under its place', async () => {
    const filter = "note = '🛶' AND tol > 'x'";
    const { code, stdout, stderr } = await send(
      'rows',
      'passages',
      '--filter',
      filter,
      '--sort',
      'pased_at',
    );
    expect(code).toBe(3);
    expect(stdout).toBe('');
    expect(stderr.split('\n').slice(1)).toEqual([
      `  --filter ${filter}`,
      // The boat is two columns wide.
      `${' '.repeat('  --filter '.length + "note = '".length + 2 + "' AND ".length)}^^^`,
      '  Unknown column tol in table passages. Did you mean toll?',
      '  --sort pased_at',
      '         ^^^^^^^^',
      '  Unknown column pased_at in table passages. Did you mean passed_at?',
      '',
    ]);
  });

  it('advise on an index', async () => {
    const args = ['advise', 'passages', '--sort', '-toll', '--filter', "status = 'disputed'"];
    const { code, stdout } = await send(...args);
    expect(code).toBe(0);
    expect(stdout).toMatch(
      /^passages: status compared with one value, then in the order of toll, id\n {2}create index concurrently on "public"\."passages" \("status", "toll", "id"\);\n {2}about [\d.]+ (?:kB|MB)\n/,
    );
    const served = await send('advise', 'passages', '--sort', '-toll');
    expect(served.stdout).toContain('passages_toll_id_idx serves already.');
    const json = JSON.parse((await send(...args, '--json')).stdout) as { advice: unknown[] };
    expect(json.advice).toMatchObject([{ served: null, equal: ['status'] }]);
  });

  it('explain how a question is answered', async () => {
    const args = ['explain', 'passages', '--sort', '-toll', '--filter', 'toll > 100'];
    const { code, stdout } = await send(...args);
    expect(code).toBe(0);
    expect(stdout).toContain('filter=toll > 100');
    expect(stdout).toContain('nulls: two phases');
    expect(stdout).toMatch(/Index Scan on passages_toll_id_idx +\d/);
    const json = JSON.parse((await send(...args, '--json')).stdout) as { sql: string };
    expect(json.sql).toContain('union all');
  });

  it.each([
    [['rows'], 2],
    [['rows', 'passages', '--pages', '3'], 2],
    [['rows', 'passages', '--page', '3', '--offset', '2'], 2],
    [['nonsense'], 2],
    [['serve'], 2],
    [['serve', '--database', 'mysql://x'], 2],
    [['serve', '--database', 'postgres://x', '--port', '99999'], 2],
    [['rows', 'pasages'], 3],
    [['describe', 'pasages'], 3],
    [['tables', '--url', 'http://127.0.0.1:9'], 4],
    [['rows', 'passages', '--url', 'http://127.0.0.1:9'], 4],
    [['serve', '--database', 'postgres://nobody@127.0.0.1:9/x', '--port', '0'], 4],
    [['--help'], 0],
    [['rows', '--help'], 0],
    [['--version'], 0],
  ])('%j ends with %i', async (args, expected) => {
    const { code, stdout, stderr } = await send(...args);
    expect(code).toBe(expected);
    if (expected === 0) expect(stdout).not.toBe('');
    else expect(stderr).not.toBe('');
    if (args.includes('--help')) expect(stdout).toContain('Examples:');
  });
});
