import pg from 'pg';
import { recordedService, type RecordedService } from '../../service/src/testing/recorded.ts';
import { start, type Ended } from './testing/command.ts';

let harbour: RecordedService;

beforeAll(async () => {
  harbour = await recordedService('cli_views', [
    'create table quays (id int primary key, name text)',
    'create table berths (id int primary key, quay_id int references quays, fee numeric, state text, gone int)',
    "insert into quays values (1, 'North'), (2, 'South')",
    "insert into berths select n, n % 2 + 1, n, case when n % 3 = 0 then 'free' else 'taken' end, n from generate_series(1, 30) n",
  ]);
});

afterAll(() => harbour.close());

const run = (...args: string[]): Promise<Ended> =>
  start(args, { EPHOROS_URL: harbour.service.url }).ended;
const done = async (...args: string[]): Promise<string> => {
  const { code, stdout, stderr } = await run(...args);
  expect([code, stderr]).toEqual([0, '']);
  return stdout;
};
const table = async (...args: string[]): Promise<string[]> =>
  (await done(...args)).trim().split('\n').slice(2);

describe('saved views on the command line', () => {
  it('are stored, listed, shown, changed, copied and dropped by their names', async () => {
    expect(
      await done(
        'views',
        'save',
        'berths',
        'Dear and free',
        '--filter',
        'fee > 20',
        '--sort',
        '-fee',
        '--note',
        'for Mondays',
        '--share',
      ),
    ).toMatch(/^Dear and free \([\w-]{16}\), of berths: saved\n$/);
    const [line = ''] = await table('views');
    expect(line).toMatch(/^Dear and free {2}berths {2}[\w-]{16} {2}for all {2}for Mondays$/);
    const id = /[\w-]{16}/.exec(line)?.[0] ?? '';
    expect(await done('views', 'show', id)).toContain('  filter=fee > 20\n  sort=-fee\n');
    await done(
      'views',
      'change',
      'dear AND free',
      '--filter',
      "state = 'free'",
      '--name',
      'Free',
      '--no-share',
      '--first',
    );
    expect(JSON.parse(await done('views', 'show', 'free', '--json'))).toMatchObject({
      id,
      name: 'Free',
      note: 'for Mondays',
      shared: false,
      first: true,
      view: { version: 1, filter: "state = 'free'" },
      version: 2,
    });
    await done('views', 'copy', 'Free', 'Free, too');
    expect(await table('views', 'list', 'berths', '--search', 'TOO')).toHaveLength(1);
    expect(await table('views', 'list', 'quays')).toEqual([]);
    await done('views', 'delete', 'Free', 'Free, too');
    expect(await table('views')).toEqual([]);
  });

  it('take the address of the console as it is, without its place', async () => {
    const address = `${harbour.service.url}/tables/berths?filter=fee+%3E+25&page=2&pinned=id&view=x#top`;
    await done('views', 'save', 'berths', 'From an address', '--address', address, '--sort', 'fee');
    const { view } = JSON.parse(await done('views', 'show', 'From an address', '--json'));
    expect(view).toEqual({ version: 1, filter: 'fee > 25', sort: 'fee', pinned: ['id'] });
  });

  it('are used by each query, and other options narrow or override them', async () => {
    await done(
      'views',
      'save',
      'berths',
      'by fee',
      '--filter',
      "state = 'free' OR fee > 28",
      '--sort',
      '-fee',
      '--columns',
      'id,fee',
      '--limit',
      '3',
      '--group',
      'quay.name',
      '--aggregate',
      'sum(fee)',
    );
    expect(JSON.parse(await done('rows', 'berths', '--view', 'By fee', '--json'))).toMatchObject({
      rows: [{ id: 30 }, { id: 29 }, { id: 27 }],
      columns: ['id', 'fee'],
    });
    const narrowed = [
      '--filter',
      'fee < 10 OR fee = 12',
      '--sort',
      'fee',
      '--limit',
      '9',
      '--columns',
      'id',
    ];
    expect(
      JSON.parse(await done('rows', 'berths', '--view', 'by fee', '--json', ...narrowed)).rows,
    ).toEqual([{ id: 3 }, { id: 6 }, { id: 9 }, { id: 12 }]);
    expect(await table('groups', 'berths', '--view', 'by fee')).toEqual([
      expect.stringMatching(/^North +5 +\d+$/),
      expect.stringMatching(/^South +6 +\d+$/),
      'lines 1–2 of 2',
    ]);
    expect(await done('aggregates', 'berths', '--view', 'by fee')).toMatch(/sum\(fee\) +194/);
    expect(await done('values', 'berths', 'state', '--view', 'by fee')).toMatch(
      /free +10\ntaken +1\n/,
    );
    const { code, stderr } = await run('groups', 'berths', '--view', 'From an address');
    expect([code, stderr]).toEqual([2, expect.stringContaining('--group <levels>')]);
  });

  it('say what of them there is not any more, and what is wrong with a name or a view', async () => {
    await done('views', 'save', 'berths', 'Gone', '--filter', 'gone > 3 AND fee > 28');
    const database = new pg.Client({ connectionString: harbour.url });
    await database.connect();
    await database.query('alter table berths drop column gone');
    await database.end();
    await run('rows', 'berths', '--columns', 'gone');
    const { code, stdout, stderr } = await run(
      'rows',
      'berths',
      '--view',
      'gone',
      '--columns',
      'id',
    );
    expect([code, stdout]).toEqual([0, expect.stringContaining('rows 1–2 of 2')]);
    expect(stderr).toContain('left out of the view Gone: Unknown column gone in table berths.');
    for (const [args, expected, message] of [
      [['rows', 'berths', '--view', 'nothing'], 2, 'no saved view nothing of berths'],
      [['rows', 'quays', '--view', 'gone'], 2, 'no saved view gone of quays'],
      [['views', 'save', 'berths', 'GONE'], 3, 'a view of berths with this name'],
      [['views', 'save', 'berths', 'x', '--filter', 'fe > 1'], 3, 'Did you mean fee?'],
      [['views', 'save', 'berths', 'x', '--filter', 'fee >'], 2, '--filter fee >'],
      [['views', 'change', 'gone'], 2, 'Say what shall be otherwise'],
      [['views', 'delete', 'gone', 'nothing'], 2, 'no saved view nothing'],
    ] as const) {
      const ended = await run(...args);
      expect([ended.code, ended.stderr]).toEqual([expected, expect.stringContaining(message)]);
    }
    // Nothing is dropped where one of the names is wrong.
    expect(await done('views', 'show', 'gone')).toContain('Left out: ');
  });
});
