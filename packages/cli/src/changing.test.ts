import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { editedHarbour, type EditedHarbour } from '../../service/src/testing/editing.ts';
import { startService } from '../../service/src/testing/service.ts';
import { start, type Ended } from './testing/command.ts';

let harbour: EditedHarbour;
const folder = mkdtempSync(join(tmpdir(), 'changing-'));

beforeAll(async () => {
  harbour = await editedHarbour('cli_changing');
});
afterAll(() => harbour.close());

const run = (...args: string[]): Promise<Ended> =>
  start(args, { EPHOROS_URL: harbour.service.url, XDG_STATE_HOME: folder }).ended;
const file = (name: string, text: string): string => {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
};
const rows = async (filter: string): Promise<any[]> =>
  (
    await harbour.service.get(
      `/api/tables/berths/rows?limit=1000&filter=${encodeURIComponent(filter)}`,
    )
  ).body.rows;

describe('the command line changes', () => {
  it('a row, where it is as it was read, and reports who has changed it else', async () => {
    const done = await run('change', 'berths', '1', 'fee=7.50', 'note=', '--was', 'fee=1.00');
    expect([done.code, done.stdout]).toEqual([
      0,
      expect.stringMatching(/^1 row saved, key 1 \(set .+\)\n$/),
    ]);
    expect(await rows('id = 1')).toMatchObject([{ fee: '7.50', note: null }]);
    const late = await run('change', 'berths', '1', 'fee=8.00', '--was', 'fee=1.00');
    expect([late.code, late.stdout]).toEqual([5, '']);
    expect(late.stderr).toContain('key 1: somebody else has changed it: fee is "7.50".');
    const wrong = await run('change', 'berths', '1', 'fee=x', 'state=fre');
    expect(wrong.code).toBe(3);
    expect(wrong.stderr).toMatch(
      /key 1, fee: Not a valid number\. .*\n {2}key 1, state: .* Did you mean free\?/,
    );
    expect((await run('change', 'berths', '1')).code).toBe(2);
    expect((await run('change', 'berths', '1', 'fee')).code).toBe(2);
  });

  it('all rows that match, as many as given', async () => {
    const all = (count: string) =>
      run('change', 'berths', '--filter', 'id IN (2, 3)', '--count', count, 'note=both');
    const wrong = await all('3');
    expect([wrong.code, wrong.stderr]).toEqual([
      5,
      expect.stringContaining('the number of rows is 2 by now'),
    ]);
    expect((await all('2')).stdout).toMatch(/^2 rows saved/);
  });

  it('what a history reports, and undo takes back', async () => {
    await run('change', 'berths', '4', 'note=first');
    const history = await run('history', 'berths', '4', '--json');
    const { entries } = JSON.parse(history.stdout);
    expect(entries[0]).toMatchObject({ before: { note: 'note 4' }, after: { note: 'first' } });
    expect((await run('history', 'berths', '4')).stdout).toMatch(/changed +4 +note +note 4 +first/);
    const dry = await run('undo', entries[0].set, '--dry-run');
    expect([dry.code, dry.stdout]).toEqual([0, '1 row could be saved\n']);
    expect((await run('undo', entries[0].set)).code).toBe(0);
    expect(await rows('id = 4')).toMatchObject([{ note: 'note 4' }]);
    const again = await run('undo', entries[0].set);
    expect([again.code, again.stderr]).toEqual([3, expect.stringContaining('was already undone')]);
  });

  it('rows that come and go', async () => {
    const added = await run('add', 'berths', 'code=Zed', 'quay_id=1', 'extras={"a":1}', '--json');
    const { keys } = JSON.parse(added.stdout);
    expect(await rows("code = 'Zed'")).toMatchObject([{ extras: { a: 1 }, quay_id: 1 }]);
    const dry = await run('remove', 'berths', keys[0], '--dry-run');
    expect(dry.stdout).toBe('1 row could be saved\n');
    expect((await run('remove', 'berths', keys[0])).code).toBe(0);
    expect(await rows("code = 'Zed'")).toEqual([]);
    const gone = await run('remove', 'berths', '5', keys[0]);
    expect([gone.code, gone.stderr]).toEqual([
      5,
      expect.stringContaining(`key ${keys[0]}: there is no such row`),
    ]);
    expect(await rows('id = 5')).toHaveLength(1);
    const referred = await run('remove', 'berths', '1');
    expect([referred.code, referred.stderr]).toEqual([
      3,
      expect.stringContaining('still reference this row'),
    ]);
  });
});

describe('files', () => {
  const csv = (from: number, count: number): string =>
    [
      'Code,Quay id,note',
      ...Array.from({ length: count }, (_, n) => `F${from + n},1,"a, ""b"""`),
    ].join('\n');

  it('are saved as often as they are sent, each run again', async () => {
    const [a, b] = ['AAA', 'BBB'].map((note) =>
      file(`${note}.csv`, `id,note\n5,${note}\n6,${note}\n`),
    );
    const notes = async (): Promise<string[]> =>
      (await rows('id IN (5, 6)')).map(({ note }) => note);
    for (const [path, note] of [
      [a, 'AAA'],
      [b, 'BBB'],
      [a, 'AAA'],
    ] as const) {
      const done = await run('change', 'berths', '--file', path ?? '');
      expect([done.code, done.stdout]).toEqual([0, expect.stringMatching(/^2 rows saved/)]);
      expect(await notes()).toEqual([note, note]);
    }
    const twice = () =>
      start(['add', 'berths', '--file', '-'], { EPHOROS_URL: harbour.service.url }, 'code\nTWICE\n')
        .ended;
    const keys = [(await twice()).stdout, (await twice()).stdout];
    expect(new Set(keys).size).toBe(2);
    expect(await rows("code = 'TWICE'")).toHaveLength(2);
  });

  it('go on where a run ended, by what the rows say, and save none twice', async () => {
    const path = file('rows.csv', `${csv(100, 25)}\nlower,1,`);
    const first = await run('add', 'berths', '--file', path, '--sets', '10');
    expect([first.code, first.stderr]).toEqual([
      3,
      expect.stringContaining('line 22 to line 27: not saved. 20 rows before are saved.'),
    ]);
    const unsaid = await run('add', 'berths', '--file', path);
    expect([unsaid.code, unsaid.stderr]).toEqual([
      2,
      expect.stringContaining('An earlier run of this file ended after 20 rows. Say --resume'),
    ]);
    // Another name, another size of sets, and the error mended.
    const mended = file('others.csv', `${csv(100, 25)}\n`);
    const resumed = await run('add', 'berths', '--file', mended, '--sets', '3', '--resume');
    expect([resumed.code, resumed.stdout]).toEqual([0, '5 rows saved; 20 were saved before\n']);
    expect(await rows("code LIKE 'F1%'")).toHaveLength(25);
    const ended = await run('add', 'berths', '--file', mended, '--resume');
    expect([ended.code, ended.stderr]).toEqual([
      2,
      expect.stringContaining('No unfinished run has saved the rows that this file begins with'),
    ]);
    const input = await run('add', 'berths', '--file', '-', '--resume');
    expect([input.code, input.stderr]).toEqual([2, expect.stringContaining('read once')]);
  });

  it('are not resumed with other rows in front', async () => {
    const path = file('begun.csv', `${csv(200, 12)}\nlower,1,`);
    expect((await run('add', 'berths', '--file', path, '--sets', '10')).code).toBe(3);
    const others = file('begun.csv', csv(201, 12));
    const resumed = await run('add', 'berths', '--file', others, '--resume');
    expect(resumed.code).toBe(2);
    const again = await run('add', 'berths', '--file', file('b.csv', csv(200, 12)), '--again');
    expect([again.code, again.stderr]).toEqual([3, expect.stringContaining('line 2')]);
  });

  it('keep all digits, in columns, lists and JSON', async () => {
    await harbour.sql(
      'create table if not exists public.digits (id int primary key, b bigint, n numeric, l bigint[], m numeric[], j jsonb)',
    );
    const digits = await startService(
      harbour.url,
      'tables: { digits: { changes: { add: true, change: true } } }',
      { records: harbour.url, changes: harbour.url },
    );
    try {
      const values =
        '{"id":1,"b":9007199254740993,"n":12345678901234567890.5,"l":[9007199254740993],"m":[12345678901234567890.5],"j":{"a":12345678901234567890.50}}';
      const cells =
        'id,b,n,l,m,j\n2,9007199254740993,12345678901234567890.5,[9007199254740993],[12345678901234567890.5],"{""a"": 12345678901234567890.50}"\n';
      for (const path of [file('d.ndjson', values), file('d.csv', cells)]) {
        const done = await start(['add', 'digits', '--file', path], { EPHOROS_URL: digits.url })
          .ended;
        expect([done.code, done.stderr]).toEqual([0, '']);
      }
      const found = await fetch(
        `${digits.url}/api/tables/digits/rows?columns=b,n,l,m,j&shape=arrays`,
      );
      const row =
        '["9007199254740993","12345678901234567890.5",["9007199254740993"],["12345678901234567890.5"],{"a": 12345678901234567890.50}]';
      expect(await found.text()).toContain(`[${row},${row}]`);
    } finally {
      await digits.close();
    }
  });

  it('have every error reported at its line, and nothing is saved of its set', async () => {
    const path = file(
      'wrong.csv',
      'code,fee,opened,note\nOk,1,2024-01-01,\n\nlower,2.005,,"two\nlines"\nFine,3,2024-02-30,\n',
    );
    const refused = await run('add', 'berths', '--file', path);
    expect(refused.code).toBe(3);
    expect(refused.stderr).toMatch(/line 4, code: A capital first\./);
    expect(refused.stderr).toMatch(/line 4, fee: The number has too many decimals/);
    expect(refused.stderr).toMatch(/line 6, opened: /);
    expect(refused.stderr).toContain('line 2 to line 6: not saved. Nothing is saved.');
    const each = await run('add', 'berths', '--file', path, '--each');
    expect([each.code, each.stderr]).toEqual([3, expect.stringContaining('saved 1, not saved 2.')]);
    expect(await rows("code IN ('Ok', 'Fine')")).toHaveLength(1);
    const short = await run('add', 'berths', '--file', file('short.csv', 'code,fee\nX\n'));
    expect([short.code, short.stderr]).toEqual([2, expect.stringContaining('Line 2 has 1 cells')]);
    const odd = await run('add', 'berths', '--file', file('odd.ndjson', '{"code":"A1"}\n[1]\n'));
    expect([odd.code, odd.stderr]).toEqual([2, 'ephoros: Line 2 is no JSON object.\n']);
    expect((await run('add', 'berths', '--file', 'nowhere.csv')).code).toBe(2);
  });

  it('change rows by their keys', async () => {
    const path = file('changes.ndjson', '{"id":"7","note":"from file"}\n{"id":8,"fee":"8.80"}\n');
    expect((await run('change', 'berths', '--file', path)).stdout).toMatch(/^2 rows saved/);
    expect(await rows('id IN (7, 8)')).toMatchObject([{ note: 'from file' }, { fee: '8.80' }]);
    const keyless = file('keyless.csv', 'note\nx\n');
    expect((await run('change', 'berths', '--file', keyless)).stderr).toContain('Line 2 has no id');
  });
});

describe('made-up rows', () => {
  it('keep to types, rules and references, and are the same for a seed', async () => {
    expect((await run('fill', 'berths', '--rows', '5')).code).toBe(2);
    const before = (await rows('TRUE')).length;
    const filled = await run('fill', 'berths', '--rows', '30', '--yes');
    expect([filled.code, filled.stdout]).toEqual([0, '30 rows saved\n']);
    expect(filled.stderr).toContain(`30 made-up rows for berths, at ${harbour.service.url}`);
    const all = await rows('TRUE');
    expect(all).toHaveLength(before + 30);
    const quays = new Set(all.map(({ quay_id: quay }) => quay));
    expect([...quays].every((quay) => quay === null || quay === 1 || quay === 2)).toBe(true);
    // A key that the database gives no value is made, too.
    const keyed = await run('fill', 'remarks', '--rows', '20', '--yes');
    expect([keyed.code, keyed.stdout]).toEqual([0, '20 rows saved\n']);
    const none = await run('fill', 'loose', '--rows', '5', '--yes');
    expect([none.code, none.stderr]).toEqual([2, 'ephoros: No rows may be added to loose here.\n']);
  });
});
