import { chmodSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freshDatabase } from '../../../demo/src/testing/databases.ts';
import { startProvider } from '../../service/src/testing/provider.ts';
import { start, type Ended } from './testing/command.ts';

let folder = '';
let file = '';
let url = '';
let drop: () => Promise<void>;

const configuration = `
signIn: [{ kind: tokens }]
tables: { berths: { changes: { change: true } } }
roles:
  keeper: { tables: { berths: { rows: "quay = {claims.quay}", hidden: [fee], changes: true } } }
  clerk: { tables: { berths: { columns: [id, quay] } }, exports: true, views: open }
`;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('cli_signing_in', [
    'create table berths (id int primary key, quay int not null, name text, fee int)',
    "insert into berths select i, i % 3, 'Berth ' || i, i from generate_series(1, 9) i",
    'create table ledgers (id int primary key)',
  ]));
  folder = mkdtempSync(join(tmpdir(), 'ephoros-'));
  file = join(folder, 'ephoros.yaml');
  writeFileSync(file, configuration);
});

afterAll(async () => {
  rmSync(folder, { recursive: true });
  await drop();
});

const run = (args: readonly string[], environment: Record<string, string> = {}): Promise<Ended> =>
  start(args, { EPHOROS_RECORDS: url, EPHOROS_DATABASE: url, ...environment }).ended;

describe('ephoros token', () => {
  it('gives out a token by which programs ask, and takes it back', async () => {
    const added = await run(['token', 'add', 'crane', '--role', 'keeper', '--claim', 'quay=2']);
    const token = added.stdout.trim();
    expect(token).toMatch(/^ephoros_[\w-]{64}$/);
    expect(added.stderr).toMatch(/^It counts until \d{4}-\d\d-\d\d/);
    const forever = await run([
      'token',
      'add',
      'desk',
      '--role',
      'clerk,keeper',
      '--expires',
      'never',
      '--json',
    ]);
    expect(JSON.parse(forever.stdout)).toMatchObject({
      name: 'desk',
      roles: ['clerk', 'keeper'],
      expiresAt: null,
    });
    const listed = await run(['token', 'list']);
    expect(listed.stdout).toMatch(/crane +\S+ +keeper +quay=2 .*never/);
    expect(listed.stdout).not.toContain(token.slice(22));

    const serving = start(['serve', '--config', file, '--port', '0'], {
      EPHOROS_DATABASE: url,
      EPHOROS_RECORDS: url,
      EPHOROS_CHANGES: url,
    });
    const [, address = ''] = await serving.printed(/^(http:\/\/\S+)$/m);
    const options = { EPHOROS_URL: address, EPHOROS_TOKEN: token };
    const rows = await run(['rows', 'berths', '--csv'], options);
    expect(rows.stdout.trim().split(/\r?\n/)).toEqual([
      'id,quay,name',
      '2,2,Berth 2',
      '5,2,Berth 5',
      '8,2,Berth 8',
    ]);
    const unknown = await run(['rows', 'berths'], { EPHOROS_URL: address });
    expect([unknown.code, unknown.stderr]).toEqual([
      3,
      expect.stringContaining('This request needs a signed-in caller'),
    ]);
    const file_ = await run(['export', 'berths', '--out', join(folder, 'x.csv')], options);
    expect([file_.code, file_.stderr]).toEqual([
      3,
      expect.stringContaining('You may not export rows'),
    ]);
    expect((await run(['token', 'revoke', 'crane'])).stdout).toBe('1 revoked\n');
    const again = await run(['token', 'revoke', 'crane']);
    expect([again.code, again.stderr]).toEqual([2, 'ephoros: no token counts by crane\n']);
    serving.child.kill('SIGTERM');
    expect((await serving.ended).code).toBe(0);
  });

  it('says what is wrong with the command', async () => {
    const nowhere = await run(['token', 'list'], { EPHOROS_RECORDS: '' });
    expect(nowhere.code).toBe(2);
    const time = await run(['token', 'add', 'x', '--expires', '5y']);
    expect([time.code, time.stderr]).toEqual([
      2,
      expect.stringContaining('12h, 90d, 4w, or never'),
    ]);
    const claim = await run(['token', 'add', 'x', '--claim', 'quay']);
    expect([claim.code, claim.stderr]).toEqual([2, expect.stringContaining('lock=7')]);
  });
});

describe('ephoros sign-in', () => {
  it('lets a browser say who asks, and keeps that for later commands', async () => {
    const provider = await startProvider();
    provider.person = { sub: 'ines', name: 'Ines Arkwright', roles: ['keeper'], quay: 1 };
    const own = join(folder, 'browser.yaml');
    writeFileSync(
      own,
      configuration
        .replace(
          'signIn: [',
          `signIn: [{ kind: openid, issuer: "${provider.issuer}", client: ephoros }, `,
        )
        // What programs are given is not for what asks as somebody.
        .replace('{ kind: tokens }', '{ kind: tokens, give: [clerk], prefix: program- }'),
    );
    const home = { XDG_CONFIG_HOME: join(folder, 'home') };
    const serving = start(['serve', '--config', own, '--port', '0'], {
      EPHOROS_DATABASE: url,
      EPHOROS_RECORDS: url,
    });
    const [, address = ''] = await serving.printed(/^(http:\/\/\S+)$/m);
    const options = { ...home, EPHOROS_URL: address };
    const signing = start(['sign-in', '--no-browser'], options);
    const [, page = ''] = await signing.printed(/^ {2}(http:\/\/\S+)$/m);
    const wanted = new URL(page).searchParams;

    // What a browser does.
    const begun = await fetch(`${address}/sign-in/at/0`, { redirect: 'manual' });
    const provided = await fetch(begun.headers.get('location') ?? '', { redirect: 'manual' });
    const [way = ''] = begun.headers.getSetCookie();
    const back = await fetch(provided.headers.get('location') ?? '', {
      redirect: 'manual',
      headers: { Cookie: way.split(';')[0] ?? '' },
    });
    const cookies = back.headers.getSetCookie().map((line) => line.split(';')[0] ?? '');
    const allow = (headers: Record<string, string>): Promise<Response> =>
      fetch(`${address}/sign-in/program`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Cookie: cookies.join('; '), ...headers },
        body: JSON.stringify({ challenge: wanted.get('challenge') }),
      });
    expect((await allow({})).status).toBe(403);
    expect((await allow({ Origin: 'https://elsewhere.example' })).status).toBe(403);
    expect((await allow({ Origin: address, Cookie: '' })).status).toBe(401);
    const { code } = (await (await allow({ Origin: address })).json()) as { code: string };
    const waits = `http://127.0.0.1:${wanted.get('port') ?? ''}/`;
    expect((await fetch(`${waits}?code=${code}&state=another`)).status).toBe(400);
    // Anyone who has read the code alone has nothing.
    const stolen = await fetch(`${address}/sign-in/program/token`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ code, verifier: 'x'.repeat(43) }),
    });
    expect(stolen.status).toBe(401);
    expect((await fetch(`${waits}?code=${code}&state=${wanted.get('state') ?? ''}`)).status).toBe(
      200,
    );

    const { code: ended, stdout } = await signing.ended;
    expect([ended, stdout]).toEqual([
      0,
      expect.stringMatching(/^You are signed in as ines until \d{4}/),
    ]);
    expect(statSync(join(folder, 'home', 'ephoros', 'tokens.json')).mode & 0o777).toBe(0o600);
    const rows = await run(['rows', 'berths', '--csv'], options);
    expect(rows.stdout.trim().split(/\r?\n/)).toHaveLength(4);
    expect((await run(['rows', 'berths'], { ...options, EPHOROS_TOKEN: 'another' })).code).toBe(3);
    // Readable for nobody else, also where it was.
    chmodSync(join(folder, 'home', 'ephoros', 'tokens.json'), 0o644);
    expect((await run(['sign-out'], options)).stdout).toBe('You are signed out.\n');
    expect(statSync(join(folder, 'home', 'ephoros', 'tokens.json')).mode & 0o777).toBe(0o600);
    expect((await run(['rows', 'berths'], options)).code).toBe(3);
    const again = await run(['sign-out'], options);
    expect([again.code, again.stderr]).toEqual([2, expect.stringContaining('nobody is signed in')]);
    serving.child.kill('SIGTERM');
    await serving.ended;
    await provider.close();
    const away = await run(['sign-in', '--no-browser'], options);
    expect([away.code, away.stderr]).toEqual([4, expect.stringContaining('no service answers')]);
  });
});

describe('ephoros access show', () => {
  it('says what somebody sees, by which role, and what is missing', async () => {
    const both = await run([
      ...['access', 'show', '--as', 'ines', '--role', 'keeper,clerk,boss'],
      ...['--claim', 'quay=2', '--config', file],
    ]);
    expect(both.stdout.split('\n').map((line) => line.trim())).toEqual(
      expect.arrayContaining([
        'ines, by keeper, clerk, boss',
        'roles that the configuration does not know: boss',
        'may, apart from reading: exports, views (open only)',
        'berths (keeper, clerk)',
        'rows: all',
        'columns: all but fee',
        "name: only where quay = '2'",
        'changes: add rows, change all columns, remove rows',
        "changes only where quay = '2'",
        'ledgers: no role names it',
      ]),
    );
    const less = await run([
      'access',
      'show',
      '--as',
      'ines',
      '--role',
      'keeper',
      '--config',
      file,
      '--json',
    ]);
    expect(JSON.parse(less.stdout)).toMatchObject({
      tables: [],
      others: [
        { table: 'berths', why: 'keeper needs claims.quay' },
        { table: 'ledgers', why: 'no role names it' },
      ],
    });
    const nobody = await run(['access', 'show', '--as', 'nobody', '--config', file]);
    expect([nobody.code, nobody.stderr]).toEqual([
      2,
      expect.stringContaining('no token counts by nobody'),
    ]);
  });
});

describe('ephoros check', () => {
  it('says what is off, slow or unsafe, and ends by whether anything is wrong', async () => {
    const fine = await run(['check', '--config', file, '--changes', url]);
    expect([fine.code, fine.stdout]).toEqual([
      0,
      expect.stringMatching(/✓ database: PostgreSQL \d/),
    ]);
    expect(fine.stdout).toContain('· role: ephoros is a superuser');
    expect(fine.stdout).toMatch(
      /· live: .* for 0 tables from the log and for 0 by triggers; for \d+, later, and only that something was written/,
    );
    expect(fine.stdout).toMatch(/\n0 wrong, \d+ to look at\n$/);
    const away = await run(['check', '--json'], { EPHOROS_DATABASE: 'postgres://x@127.0.0.1:1/y' });
    expect(away.code).toBe(1);
    expect(JSON.parse(away.stdout)).toContainEqual(
      expect.objectContaining({ about: 'database', state: 'wrong' }),
    );
    const open = await run(['check', '--host', '0.0.0.0'], { EPHOROS_RECORDS: '' });
    expect([open.code, open.stdout]).toEqual([
      1,
      expect.stringContaining('✗ callers: anyone who reaches 0.0.0.0 sees everything'),
    ]);
  });

  it('finds what roles and ways of signing in name and there is not', async () => {
    const wrong = join(folder, 'wrong.yaml');
    writeFileSync(
      wrong,
      `signIn:
  - { kind: jwt, issuer: x, audience: y, keys: ${join(folder, 'nokeys.json')} }
roles:
  keeper:
    tables:
      berth: true
      berths: { columns: [idd], rows: "quai = {claims.quay}" }
`,
    );
    const { code, stdout } = await run(['check', '--config', wrong]);
    expect(code).toBe(1);
    for (const message of [
      'wrong.yaml:6:7: no table is published as berth; perhaps berths',
      'wrong.yaml:7:17: berths has no column idd; perhaps id',
      'wrong.yaml:7:33: The row rule of berths cannot be used',
      '✗ sign-in by jwt: ENOENT',
    ]) {
      expect(stdout).toContain(message);
    }
    const unreadable = join(folder, 'unreadable.yaml');
    writeFileSync(
      unreadable,
      `roles: { a: { tables: { berths: { rows: "name = '{claims.x}' AND quay = {lock}" } } } }`,
    );
    const refused = await run(['check', '--config', unreadable]);
    expect([refused.code, refused.stderr]).toEqual([
      2,
      expect.stringMatching(/nobody could have a role[^]*stands without quotes/),
    ]);
    expect(refused.stderr).toContain('{lock} is nothing of the caller');
  });
});
