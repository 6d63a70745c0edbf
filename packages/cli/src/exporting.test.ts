import {
  existsSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { start, type Ended } from './testing/command.ts';

const { lowmere, passages } = testDatabases();
const folder = mkdtempSync(join(tmpdir(), 'ephoros-cli-export-'));
const at = (name: string): string => join(folder, name);
const text = (name: string): string => readFileSync(at(name), 'utf8');

let service: TestService;

beforeAll(async () => {
  service = await startService(lowmere);
});

afterAll(async () => {
  await service.close();
  rmSync(folder, { recursive: true, force: true });
});

const exported = (...args: string[]): Promise<Ended> =>
  start(['export', 'passages', '--url', service.url, ...args]).ended;

const ordered = ['--sort', 'id', '--columns', 'id,note'];

describe('files on the command line', () => {
  it('hold all rows, and are whole once they have their name', async () => {
    const { code, stderr, stdout } = await exported('--out', at('all.csv'), ...ordered);
    expect([code, stdout, stderr]).toEqual([
      0,
      '',
      `${passages.toLocaleString('en')} rows in ${at('all.csv')}\n`,
    ]);
    expect(text('all.csv').startsWith('id,note\r\n1,')).toBe(true);
    expect(existsSync(at('all.csv.part'))).toBe(false);
    const again = await exported('--out', at('all.csv'), ...ordered);
    expect([again.code, again.stderr]).toEqual([2, expect.stringContaining('--overwrite')]);
    expect((await exported('--out', at('all.csv'), '--overwrite', ...ordered)).code).toBe(0);
  });

  it.each(['csv', 'ndjson'])('of %s go on behind their last whole row', async (format) => {
    const [whole, parted] = [`whole.${format}`, `parted.${format}`];
    const into = (name: string, ...more: string[]): Promise<Ended> =>
      exported(
        ...['--out', at(name), ...ordered, '--limit', '3000', '--first-line', 'labels', ...more],
      );
    await into(whole);
    // Broken off somewhere within a row.
    const bytes = readFileSync(at(whole));
    writeFileSync(at(`${parted}.part`), bytes.subarray(0, Math.floor(bytes.length * 0.6)));
    const { code, stderr } = await into(parted, '--resume');
    expect([code, stderr]).toEqual([0, `3,000 rows in ${at(parted)}\n`]);
    expect(text(parted)).toBe(text(whole));
    // What has all of its rows already lacks its name alone.
    writeFileSync(at(`${parted}.part`), bytes);
    await into(parted, '--overwrite', '--resume');
    expect(text(parted)).toBe(text(whole));
  });

  it('go on behind the very row, whatever others add or remove before it', async () => {
    const { url, drop } = await freshDatabase('ephoros_cli_resumed', [
      'create table notes (at date, "no, no" text, body text, primary key (at, "no, no"))',
      `insert into notes select date '2024-01-01' + n / 10, 'a,' || n, case n % 3 when 0 then E'two\nlines' end from generate_series(1, 200) n`,
    ]);
    const own = await startService(url);
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    try {
      for (const format of ['csv', 'ndjson']) {
        const file = at(`notes.${format}`);
        const into = (...more: string[]): Promise<Ended> =>
          start(['export', 'notes', '--url', own.url, '--sort', '-at', '--out', file, ...more])
            .ended;
        expect((await into()).code).toBe(0);
        const whole = readFileSync(file, 'utf8');
        writeFileSync(`${file}.part`, whole.slice(0, Math.floor(whole.length / 2)));
        await client.query(
          "insert into notes select date '2030-01-01', 'new' || n from generate_series(1, 7) n",
        );
        const { code, stderr } = await into('--resume', '--overwrite');
        expect([code, stderr]).toEqual([0, `200 rows in ${file}\n`]);
        expect(readFileSync(file, 'utf8')).toBe(whole);
        await client.query("delete from notes where at = '2030-01-01'");
      }
    } finally {
      await client.end();
      await own.close();
      await drop();
    }
  });

  it('hold a line for each group, by what coded values are called', async () => {
    const requests = ['--group', 'status', '--aggregate', 'count()', '--sort', '-count()'];
    const { code } = await exported('--out', at('groups.ndjson'), ...requests, '--value-labels');
    expect(code).toBe(0);
    const lines = text('groups.ndjson').trimEnd().split('\n');
    const groups = lines.map((line) => JSON.parse(line) as { 'count()': number });
    expect(groups.reduce((sum, one) => sum + one['count()'], 0)).toBe(passages);
    const folded = ['--group', 'status,direction', '--levels', 'folded'];
    expect((await exported('--out', at('groups.xlsx'), ...folded)).code).toBe(0);
    const refused = await exported('--out', at('groups.csv'), ...folded);
    expect([refused.code, refused.stderr]).toEqual([
      3,
      expect.stringContaining('folded with format=xlsx'),
    ]);
    expect(existsSync(at('groups.csv'))).toBe(false);
  });

  it('take their format from their ending', async () => {
    for (const [ending, begins] of [
      ['md', '| id | note |'],
      ['html', '<!doctype html>'],
      ['json', '[\n{"id":'],
    ]) {
      const name = `some.${ending ?? ''}`;
      expect((await exported('--out', at(name), ...ordered, '--limit', '5')).code).toBe(0);
      expect(text(name).slice(0, begins?.length)).toBe(begins);
    }
    await exported('--out', at('some.arrow'), ...ordered, '--limit', '5');
    expect(readFileSync(at('some.arrow')).subarray(0, 4)).toEqual(Buffer.from('ffffffff', 'hex'));
  });

  it('replace no file that somebody else has left, and write through no link', async () => {
    writeFileSync(at('mine.csv.part'), 'mine');
    const refused = await exported('--out', at('mine.csv'), '--limit', '1');
    expect([refused.code, refused.stderr, text('mine.csv.part')]).toEqual([
      2,
      expect.stringContaining('--resume goes on with it, --overwrite replaces it'),
      'mine',
    ]);
    expect((await exported('--out', at('mine.csv'), '--limit', '1', '--overwrite')).code).toBe(0);
    symlinkSync(at('elsewhere.csv'), at('linked.csv'));
    symlinkSync(at('elsewhere.html'), at('linked.html'));
    expect((await exported('--out', at('linked.csv'), '--limit', '1')).code).toBe(2);
    const report = await start(['report', 'passages', '--rows', '1', '--out', at('linked.html')], {
      EPHOROS_URL: service.url,
    }).ended;
    expect([report.code, report.stderr]).toEqual([2, expect.stringContaining('already')]);
    symlinkSync(at('elsewhere.csv'), at('part.csv.part'));
    expect((await exported('--out', at('part.csv'), '--limit', '1')).code).toBe(2);
    expect([existsSync(at('elsewhere.csv')), existsSync(at('elsewhere.html'))]).toEqual([
      false,
      false,
    ]);
  });

  it('leave what is there of one alone until the service has begun to answer', async () => {
    writeFileSync(at('kept.csv.part'), 'id\r\n1\r\n');
    for (const wrong of [
      ['--filter', 'nope = 1'],
      ['--limit', 'many'],
      ['--offset', '-1'],
    ]) {
      const { code, stderr } = await exported('--out', at('kept.csv'), ...wrong);
      expect([code, stderr]).toEqual([3, expect.stringContaining(wrong[1] ?? '')]);
      expect(text('kept.csv.part')).toBe('id\r\n1\r\n');
    }
    const gone = await start([
      ...['export', 'passages', '--url', 'http://127.0.0.1:9', '--out', at('kept.csv'), '--resume'],
    ]).ended;
    expect([gone.code, text('kept.csv.part')]).toEqual([4, 'id\r\n1\r\n']);
    expect(existsSync(at('kept.csv'))).toBe(false);
  });

  it('are of selected rows, and begin as the options say', async () => {
    writeFileSync(at('keys.txt'), '7\n3\n');
    const { code, stdout } = await exported(
      ...['--format', 'csv', '--selection', at('keys.txt'), '--columns', 'id', '--sort', 'id'],
      ...['--bom', '--line-end', 'lf', '--first-line', 'labels'],
    );
    expect([code, stdout]).toEqual([0, '\uFEFFId\n3\n7\n']);
  });

  it('go to standard output, and narrow as questions do', async () => {
    const { stdout, code } = await exported(
      '--format',
      'ndjson',
      '--filter',
      'id IN (3, 5)',
      '--sort',
      '-id',
      '--columns',
      'id',
    );
    expect([code, stdout]).toEqual([0, '{"id":"5"}\n{"id":"3"}\n']);
    const selected = await exported(
      '--format',
      'csv',
      '--delimiter',
      'semicolon',
      '--line-end',
      'lf',
      ...ordered,
      '--filter',
      'id = 3',
    );
    expect(selected.stdout.split('\n')[0]).toBe('id;note');
    const book = await exported('--out', at('few.xlsx'), '--limit', '5');
    expect([book.code, readFileSync(at('few.xlsx')).subarray(0, 2).toString()]).toEqual([0, 'PK']);
  });

  it('say what is wrong with them', async () => {
    const cases: readonly [readonly string[], number, string][] = [
      [['--out', at('a.doc')], 2, '--format csv, ndjson, json, xlsx'],
      [[], 2, '--format csv, ndjson, json, xlsx'],
      [['--out', at('a.xlsx'), '--resume'], 2, 'CSV or NDJSON'],
      [['--format', 'csv', '--filter', 'nope = 1'], 3, '^^^^'],
      [['--format', 'csv', '--delimiter', 'dot'], 2, 'semicolon'],
      [['--out', join(folder, 'no/such/place.csv')], 2, 'cannot be written'],
    ];
    for (const [args, code, message] of cases) {
      const ended = await exported(...args);
      expect([args, ended.code, ended.stderr]).toEqual([
        args,
        code,
        expect.stringContaining(message),
      ]);
    }
  });
});

describe('a service that breaks off', () => {
  let server: Server;

  beforeAll(async () => {
    server = createServer((_request, response) => {
      response.writeHead(200, { 'Content-Type': 'text/csv' });
      response.write('id\r\n1\r\n2\r\n3');
      // As soon as that is written there.
      const timer = setInterval(() => {
        const part = at('broken.csv.part');
        if (!existsSync(part) || statSync(part).size === 0) return;
        clearInterval(timer);
        response.destroy();
      }, 20);
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });

  afterAll(() => server.close());

  it('leaves no file that looks whole', async () => {
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const out = at('broken.csv');
    const { code, stderr } = await start(['export', 'passages', '--url', url, '--out', out]).ended;
    expect([code, stderr]).toEqual([
      4,
      expect.stringContaining('broken off after 2 rows. --resume'),
    ]);
    expect([existsSync(out), existsSync(`${out}.part`)]).toEqual([false, true]);
    const nobody = await start([
      'export',
      'passages',
      '--url',
      'http://127.0.0.1:9',
      '--format',
      'csv',
    ]).ended;
    expect([nobody.code, nobody.stderr]).toEqual([
      4,
      expect.stringContaining('No service answers'),
    ]);
  });
});
