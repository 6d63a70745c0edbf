import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freshDatabase, testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { csv } from './output/csv.ts';
import { drawTable } from './output/table.ts';
import { lines, plain, plainJson, plainPieces } from './output/plain.ts';
import { occupy, start } from './testing/command.ts';

const { lowmere } = testDatabases();
const escape = '\u001b[31m';
const turned = '\u202e';

describe('what comes from elsewhere', () => {
  let service: TestService;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    const nasty = `${escape}red${turned}`;
    const fresh = await freshDatabase('ephoros_nasty', [
      `create table "odd${escape}" (id int primary key, "c${turned}" text)`,
      `comment on table "odd${escape}" is '${nasty}'`,
      `comment on column "odd${escape}"."c${turned}" is '${nasty}'`,
      `insert into "odd${escape}" values (1, '=cmd()'), (2, '${nasty}'), (3, '-12.5'), (4, '+1+1')`,
    ]);
    ({ drop } = fresh);
    service = await startService(fresh.url);
  });

  afterAll(async () => {
    await service.close();
    await drop();
  });

  it.each([
    ['tables'],
    ['tables', '--json'],
    ['describe', `odd${escape}`],
    ['describe', `odd${escape}`, '--json'],
    ['rows', `odd${escape}`],
    ['rows', `odd${escape}`, '--json'],
    ['groups', `odd${escape}`, '--group', `"c${turned}"`],
    ['values', `odd${escape}`, `c${turned}`],
    ['explain', `odd${escape}`, '--filter', `"c${turned}" = '${escape}'`],
    ['rows', `odd${escape}`, '--filter', `"d${escape}${turned}" = 1`],
    ['types'],
  ])('moves no cursor and turns no text around: %s %s', async (...args) => {
    const { stdout, stderr } = await start(args, { EPHOROS_URL: service.url }).ended;
    expect(stdout + stderr).not.toBe('');
    expect(stdout + stderr).not.toContain('\u001b');
    expect(stdout + stderr).not.toContain(turned);
  });

  it.each([
    ['tables'],
    ['describe', 'berths'],
    ['rows', 'berths'],
    ['rows', 'berths', '--csv'],
    ['row', 'berths', '1'],
    ['groups', 'berths', '--group', 'state'],
    ['aggregates', 'berths', '--aggregate', 'count()'],
    ['values', 'berths', 'state'],
    ['explain', 'berths'],
    ['export', 'berths', '--format', 'csv'],
    ['views'],
    ['types'],
    ['history', 'berths'],
    ['undo', 'set'],
    ['report', 'berths', '--out', '-'],
  ])('moves no cursor where a service is hostile: %s %s', async (...args) => {
    const server = createServer((request, response) => {
      request.resume();
      response.writeHead(500, {
        'Content-Type': 'application/problem+json',
        'X-Request-Id': 'x',
      });
      const message = `${escape}${turned}\u009b`;
      response.end(
        JSON.stringify({
          type: `urn:${message}`,
          title: message,
          status: 500,
          detail: message,
          requestId: `id${message}`,
          errors: [{ code: message, message: message, hint: message, parameter: message }],
        }),
      );
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo;
    const { stdout, stderr, code } = await start(args, {
      EPHOROS_URL: `http://127.0.0.1:${port}`,
    }).ended;
    server.close();
    expect(code).not.toBe(0);
    expect(stderr).not.toBe('');
    expect(stdout + stderr).not.toMatch(/[\u001b\u009b\u202e]/);
  });

  it('is no formula of a spreadsheet, unless that is meant', async () => {
    const send = async (...more: string[]): Promise<string[]> => {
      const args = ['rows', `odd${escape}`, '--csv', '--sort', 'id', ...more];
      const { stdout } = await start(args, { EPHOROS_URL: service.url }).ended;
      return stdout.split('\r\n').map((line) => line.split(',').at(-1) ?? '');
    };
    expect((await send()).slice(1)).toEqual([
      "'=cmd()",
      `${escape}red${turned}`,
      '-12.5',
      "'+1+1",
      '',
    ]);
    expect((await send('--formulas'))[1]).toBe('=cmd()');
  });

  it('is drawn plainly on a terminal, and stays what it is in JSON', () => {
    const stdout = { write: () => undefined, isTTY: true, columns: 80 };
    const terminal = { stdout, stderr: stdout, environment: {} };
    const text = `a${escape}b${turned}\nc`;
    // Own colours apart.
    const drawn = drawTable([{ name: 'a', label: text, right: false }], [{ a: text }], terminal);
    expect(drawn).not.toContain(escape);
    expect(csv([{ name: 'a' }], [{ a: text }], terminal)).not.toContain('\u001b');
    expect([plain(text), lines(text)]).toEqual(['a�[31mb�⏎c', 'a�[31mb�\nc']);
    const nested = csv([{ name: 'a' }], [{ a: { text } }, { a: [text, '\u009b'] }], terminal);
    expect(nested).not.toMatch(/[\u001b\u009b\u202e]/);
    const json = JSON.stringify({ text: `${turned}\u009b` });
    // A character of three bytes that comes in two pieces.
    for (const isJson of [false, true]) {
      const bytes = Buffer.from(`${isJson ? json : text}é${turned}`);
      const pieces = plainPieces(isJson);
      const cut = bytes.length - 2;
      const shown = pieces(bytes.subarray(0, cut)) + pieces(bytes.subarray(cut)) + pieces();
      expect(shown).toContain('é');
      expect(shown).not.toMatch(/[\u001b\u009b\u202e]/);
    }
    expect(plainJson(json)).not.toContain(turned);
    expect(JSON.parse(plainJson(json))).toEqual(JSON.parse(json));
  });
});

describe('ephoros serve', () => {
  it('shows nothing to others unless that is stated', async () => {
    const refused = await start(['serve', '--host', '0.0.0.0', '--port', '0'], {
      EPHOROS_DATABASE: lowmere,
    }).ended;
    expect(refused.code).toBe(2);
    expect(refused.stderr).toContain('--unprotected');
    const meant = start(['serve', '--host', '0.0.0.0', '--port', '0', '--unprotected'], {
      EPHOROS_DATABASE: lowmere,
    });
    await meant.printed(/http:\/\/0\.0\.0\.0:\d+/);
    meant.child.kill('SIGTERM');
    expect((await meant.ended).code).toBe(0);
  });

  it('warns of a role that may write, and of a password that everybody can read', async () => {
    const url = new URL(lowmere);
    url.password = 'secret';
    const serving = start(['serve', '--database', url.href, '--port', '0']);
    await serving.printed(/http:\/\/127/);
    serving.child.kill('SIGTERM');
    const { stderr } = await serving.ended;
    expect(stderr).toContain('is a superuser');
    expect(stderr).toContain('a password in --database can be read');
    expect(stderr).not.toContain('secret');
  });

  it('takes the database from a file', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'ephoros-url-'));
    const file = join(folder, 'url');
    writeFileSync(file, `${lowmere}\n`);
    const serving = start(['serve', '--database-file', file, '--port', '0']);
    await serving.printed(/tables published/);
    serving.child.kill('SIGTERM');
    expect((await serving.ended).code).toBe(0);
    rmSync(folder, { recursive: true });
    const none = await start(['serve'], { EPHOROS_DATABASE: '' }).ended;
    expect([none.code, none.stderr]).toEqual([
      2,
      expect.stringContaining('a database is written as'),
    ]);
  });

  it('ends where its workers find the port taken', async () => {
    const { server, port } = await occupy();
    const args = ['serve', '--port', String(port), '--workers', '2', '--connections', '8'];
    const { code, stderr } = await start(args, { EPHOROS_DATABASE: lowmere }).ended;
    expect([code, stderr.includes(`Port ${port} on 127.0.0.1 is taken.`)]).toEqual([2, true]);
    server.close();
  });
});
