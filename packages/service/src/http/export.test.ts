import { createReadStream, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import Papa from 'papaparse';
import pg from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import readSheets from 'read-excel-file/node';
import { until } from '../../../core/src/testing/until.ts';
import { harmlessText } from '@ephoros/core/schema';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../testing/service.ts';

type Parameters = Readonly<Record<string, string>>;

/** Texts that files get wrong. */
const texts = [
  'plain',
  '',
  'é "quoted", with; all | the\tsigns',
  'two\nlines\r\nthree',
  'עגורן 🛶 שער',
  '=1+1',
  '@SUM(A1)',
  '+351 12',
  '-5',
  '\\N',
  'NULL',
  '\\.',
  `long ${'x'.repeat(40_000)}`,
];

/** Texts that a spreadsheet splits, or computes, somewhere in the middle. */
const splitTexts = [
  'x;=1+1',
  'x; +cmd;-2;@a',
  'x\t=1+1',
  '\n=1+1',
  'two\r\n-lines;1',
  '1;-2;+3.5;=',
  'x; =1',
  'x;-1e5;=',
  ';;=1',
  '-1;=1',
];

const many = 30_000;
const folder = mkdtempSync(join(tmpdir(), 'ephoros-export-'));
let url: string;
let drop: () => Promise<void>;
let service: TestService;
let database: pg.Client;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('ephoros_export', [
    "create type mood as enum ('calm', '=wild')",
    `create table odd (id int primary key, word text, big numeric, fraction float8, day date, at timestamptz,
       clear boolean, mood mood, raw bytea, list int[], doc jsonb, span interval)`,
    `insert into odd values
       (1000, null, 12345678901234567890.123456789, 'Infinity', '2026-03-01', '2026-03-01 12:00:00.25+00', true, 'calm', '\\x00ff', '{1,null}', '{"a": "b"}', 'P1D'),
       (1001, 'x', 'NaN', 'NaN', 'infinity', '-infinity', false, '=wild', null, null, null, null),
       (1002, 'y', 0.10, -0.5, '0044-03-15 BC', '1850-01-01 00:00:00+00', null, null, '', '{}', '[]', '-1 hour')`,
    `create table many as select i as id, 'row ' || i as word from generate_series(1, ${many}) i`,
    'alter table many add primary key (id)',
    'analyze',
  ]));
  database = new pg.Client({ connectionString: url });
  await database.connect();
  for (const [id, word] of texts.entries()) {
    await database.query('insert into odd (id, word) values ($1, $2)', [id, word]);
  }
  await database.query('create table taken (like odd)');
  service = await startService(url, 'exports: { rows: 100000 }\n');
});

afterAll(async () => {
  await service.close();
  await database.end();
  await drop();
  rmSync(folder, { recursive: true, force: true });
});

const addressOf = (table: string, parameters: Parameters): string =>
  `${service.url}/api/tables/${table}/export?${new URLSearchParams(parameters).toString()}`;

const file = async (table: string, parameters: Parameters): Promise<Buffer> => {
  const response = await fetch(addressOf(table, parameters));
  expect(response.status).toBe(200);
  return Buffer.from(await response.arrayBuffer());
};

describe('a file', () => {
  it.each([
    [{ 'line-end': 'lf', formulas: 'true' }, 'format csv, header'],
    [
      { formulas: 'true', delimiter: 'semicolon', missing: 'null' },
      "format csv, header, delimiter ';', null 'NULL'",
    ],
    [
      { formulas: 'true', delimiter: 'tab', missing: 'backslash-n', header: 'none' },
      "format csv, delimiter E'\\t', null '\\N'",
    ],
  ])('of CSV holds the same values, as PostgreSQL itself reads it: %p', async (form, options) => {
    const columns = 'id,word,big,fraction,day,at,clear,mood,list,doc,span';
    const body = await file('odd', { format: 'csv', columns, ...form });
    const path = join(folder, 'odd.csv');
    writeFileSync(path, body);
    await database.query('truncate taken');
    const into = database.query(copyFrom(`copy taken (${columns}) from stdin (${options})`));
    await pipeline(createReadStream(path), into);
    const differing = await database.query(
      `(select ${columns} from odd except select ${columns} from taken)
       union all (select ${columns} from taken except select ${columns} from odd)`,
    );
    expect(differing.rows).toEqual([]);
  });

  it('of CSV is harmless to a spreadsheet unless it shall not be, and is what RFC 4180 says', async () => {
    const body = (
      await file('odd', {
        format: 'csv',
        columns: 'word',
        sort: 'id',
        header: 'labels',
        bom: 'true',
      })
    ).toString();
    expect(body.startsWith('\uFEFFWord\r\nplain\r\n""\r\n')).toBe(true);
    const [, ...rows] = Papa.parse<string[]>(body.slice(1).trimEnd(), { newline: '\r\n' }).data;
    expect(rows.map(([word]) => word).slice(0, texts.length)).toEqual(texts.map(harmlessText));
    const binary = await file('odd', { format: 'csv', columns: 'id,raw', filter: 'id = 1000' });
    expect(binary.toString()).toBe('id,raw\r\n1000,AP8=\r\n');
  });

  it('of CSV computes nothing where a spreadsheet splits it elsewhere', async () => {
    await database.query(
      'create table split (id int primary key, word text, doc jsonb, list text[])',
    );
    for (const [id, word] of splitTexts.entries()) {
      await database.query('insert into split values ($1, $2, $3, $4)', [
        id,
        word,
        JSON.stringify([word]),
        [word],
      ]);
    }
    await until(
      () => service.get('/api/tables/split'),
      ({ status }) => status === 200,
    );
    const csv = (await file('split', { format: 'csv', sort: 'id' })).toString();
    const [, ...rows] = Papa.parse<string[]>(csv.trimEnd(), { newline: '\r\n' }).data;
    expect(rows.map(([, word]) => word)).toEqual(splitTexts.map(harmlessText));
    for (const [, , doc = '', list = ''] of rows) {
      expect([harmlessText(doc), harmlessText(list)]).toEqual([doc, list]);
    }
    const raw = (await file('split', { format: 'csv', sort: 'id', formulas: 'true' })).toString();
    const [, ...as] = Papa.parse<string[]>(raw.trimEnd(), { newline: '\r\n' }).data;
    expect(as.map(([, word]) => word)).toEqual(splitTexts);
  });

  it.each(['ndjson', 'json'])('of %s holds what answers hold, of every type', async (format) => {
    const body = (await file('odd', { format, sort: 'id' })).toString();
    const rows: unknown =
      format === 'json'
        ? JSON.parse(body)
        : body
            .trimEnd()
            .split('\n')
            .map((line) => JSON.parse(line));
    const { body: answer } = await service.get('/api/tables/odd/rows?sort=id&limit=100');
    expect(rows).toEqual(answer.rows);
    expect((await file('odd', { format, filter: 'id < 0' })).toString()).toBe(
      format === 'json' ? '[\n\n]\n' : '',
    );
  });

  it('of XLSX holds typed cells where these are exact, and texts otherwise', async () => {
    const path = join(folder, 'odd.xlsx');
    writeFileSync(path, await file('odd', { format: 'xlsx', sort: '-id', header: 'labels' }));
    const [sheet] = await readSheets(path);
    const [header, ...rows] = sheet?.data ?? [];
    expect(header?.slice(0, 3)).toEqual(['Id', 'Word', 'Big']);
    expect(rows).toHaveLength(texts.length + 3);
    expect(rows[0]?.slice(0, 8)).toEqual([
      1002,
      'y',
      0.1,
      -0.5,
      '0044-03-15 BC',
      '1850-01-01 00:00:00+00',
      null,
      null,
    ]);
    expect(rows[1]?.slice(1, 8)).toEqual([
      'x',
      'NaN',
      'NaN',
      'infinity',
      '-infinity',
      false,
      '=wild',
    ]);
    expect(rows[2]?.slice(2, 8)).toEqual([
      ...['12345678901234567890.123456789', 'Infinity', new Date('2026-03-01')],
      ...[new Date('2026-03-01T12:00:00.250Z'), true, 'calm'],
    ]);
    const words = rows
      .slice(3)
      .map((row) => row[1] ?? '')
      .reverse();
    expect(words.slice(0, 3)).toEqual(texts.slice(0, 3));
    expect(words.slice(4, -1)).toEqual(texts.slice(4, -1));
    expect(String(words.at(-1))).toHaveLength(32_767);
  });

  it('has all rows of the question, in its order, and says how many', async () => {
    const response = await fetch(
      addressOf('many', {
        format: 'csv',
        filter: "word LIKE '%7%'",
        sort: '-id',
        columns: 'id',
        offset: '10',
      }),
    );
    expect(response.headers.get('content-disposition')).toBe(
      `attachment; filename="many.csv"; filename*=UTF-8''many.csv`,
    );
    const [, ...ids] = (await response.text()).trimEnd().split('\r\n').map(Number);
    const { rows } = await database.query<{ id: number }>(
      "select id from many where word like '%7%' order by id desc offset 10",
    );
    expect(ids).toEqual(rows.map(({ id }) => id));
    expect(response.headers.get('ephoros-rows')).toBe(String(rows.length));
    const some = await file('many', {
      format: 'ndjson',
      limit: '3',
      offset: '5',
      sort: 'id',
      columns: 'id',
    });
    expect(some.toString()).toBe('{"id":6}\n{"id":7}\n{"id":8}\n');
    const head = await fetch(addressOf('many', { format: 'xlsx' }), { method: 'HEAD' });
    expect([head.status, head.headers.get('ephoros-rows')]).toEqual([200, String(many)]);
  });

  it('is called as its table, whatever that is called', async () => {
    await database.query('create table "Zoë\'s ""tab;le"" (1)" (id int primary key)');
    const fresh = await startService(url);
    const name = encodeURIComponent(`Zoë's "tab;le" (1)`);
    const { headers } = await fetch(`${fresh.url}/api/tables/${name}/export?format=csv`);
    expect(headers.get('content-disposition')).toBe(
      `attachment; filename="Zo__s _tab_le_ (1).csv"; filename*=UTF-8''Zo%C3%AB%27s%20%22tab%3Ble%22%20%281%29.csv`,
    );
    await fresh.close();
  });

  it('goes on behind a cursor', async () => {
    const { body } = await service.get('/api/tables/many/rows?sort=word&limit=4&columns=id');
    const rest = await file('many', {
      format: 'csv',
      sort: 'word',
      columns: 'id',
      after: body.next,
      header: 'none',
    });
    const ids = rest.toString().trimEnd().split('\r\n').map(Number);
    const first = body.rows.map(({ id }: { id: number }) => id);
    expect([...first, ...ids].sort((one, other) => one - other)).toEqual(
      Array.from({ length: many }, (_, index) => index + 1),
    );
  });

  it('of JSON that stands on several lines has a line for each row all the same', async () => {
    await database.query(`create table spread (id int primary key, doc json, raw bytea)`);
    await database.query(`insert into spread values (1, $1, '\\x00'), (2, '[]', null)`, [
      '{"a":\n 1,\r\n"b": "x\\ny"}',
    ]);
    // What the database writes, and what is written here.
    for (const columns of ['id,doc', 'id,doc,raw']) {
      const search = new URLSearchParams({ format: 'ndjson', sort: 'id', columns }).toString();
      const fresh = await startService(url);
      const body = await (await fetch(`${fresh.url}/api/tables/spread/export?${search}`)).text();
      const lines = body.trimEnd().split('\n');
      expect(lines).toHaveLength(2);
      expect(JSON.parse(lines[0] ?? '')).toMatchObject({ id: 1, doc: { a: 1, b: 'x\ny' } });
      await fresh.close();
    }
  });

  it('is requested in a body as well, values and all', async () => {
    const response = await fetch(addressOf('odd', {}).replace('?', ''), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        format: 'csv',
        columns: ['id'],
        filter: `word = '@SUM(A1)' OR word = '''; drop table odd; --'`,
        bom: false,
        limit: 5,
      }),
    });
    expect(await response.text()).toBe('id\r\n6\r\n');
  });
});

describe('a file for people', () => {
  const parameters = { columns: 'id,word,big,clear,raw', sort: 'id' };

  it('is a table of Markdown that holds nothing but text', async () => {
    const lines = (await file('odd', { ...parameters, format: 'md', limit: '6' })).toString();
    expect(lines.split('\n').slice(0, 6)).toEqual([
      '| id | word | big | clear | raw |',
      '| --: | :-- | --: | :-- | :-- |',
      '| 0 | plain |  |  |  |',
      '| 1 |  |  |  |  |',
      '| 2 | é "quoted", with; all \\| the signs |  |  |  |',
      '| 3 | two lines three |  |  |  |',
    ]);
    const last = { ...parameters, format: 'md', offset: '13', header: 'labels' };
    expect((await file('odd', last)).toString()).toMatch(
      /^\| Id \| Word .*\n.*\n\| 1000 \|  \| 12345678901234567890\.123456789 \| true \| AP8= \|\n/,
    );
  });

  it('is a page of HTML in which nothing runs', async () => {
    await database.query(
      "insert into odd (id, word) values (77, '<script>alert(1)</script> & \"')",
    );
    const filter = 'id = 77 OR id = 1002';
    const page = (await file('odd', { ...parameters, format: 'html', filter })).toString();
    await database.query('delete from odd where id = 77');
    expect(page).toMatch(/^<!doctype html>/);
    expect(page).toContain("default-src 'none'");
    expect(page).not.toContain('<script');
    expect(page).toContain(
      '<tr><td class="end" dir="auto">77</td><td dir="auto">&#60;script&#62;alert(1)&#60;/script&#62; &#38; &#34;</td>',
    );
    expect(page).toMatch(/<td class="end" dir="auto">0\.10<\/td>.*<\/tbody>\n<\/table>\n$/s);
  });

  it('has no more rows than somebody reads', async () => {
    for (const format of ['md', 'html']) {
      const { status, body } = await service.get(`/api/tables/many/export?format=${format}`);
      expect([status, body.errors?.[0]?.code]).toEqual([413, 'export-too-long']);
    }
    const rows = (await file('many', { format: 'md', limit: '10000' })).toString();
    expect(rows.trimEnd().split('\n')).toHaveLength(10_002);
  });
});

describe('coded values', () => {
  const labels = `{ calm: 'in harmony', '=wild': '=storm, or "worse"' }`;
  let labelled: TestService;

  beforeAll(async () => {
    const configuration = `tables: { odd: { columns: { mood: { valueLabels: ${labels} } } } }`;
    labelled = await startService(url, configuration);
  });

  afterAll(() => labelled.close());

  const moods = async (form: Parameters): Promise<string> => {
    const search = new URLSearchParams({ columns: 'id,mood', offset: '13', sort: 'id', ...form });
    return (await fetch(`${labelled.url}/api/tables/odd/export?${search.toString()}`)).text();
  };

  it('stand as what they are called where that is wanted, harmless in CSV', async () => {
    const wanted = { 'value-labels': 'true' };
    expect(await moods({ format: 'csv', ...wanted })).toBe(
      'id,mood\r\n1000,in harmony\r\n1001,"\'=storm, or ""worse"""\r\n1002,\r\n',
    );
    expect(await moods({ format: 'csv', formulas: 'true', ...wanted })).toContain('1001,"=storm');
    expect(await moods({ format: 'ndjson', ...wanted })).toBe(
      '{"id":1000,"mood":"in harmony"}\n{"id":1001,"mood":"=storm, or \\"worse\\""}\n{"id":1002,"mood":null}\n',
    );
    expect(await moods({ format: 'md', ...wanted })).toContain('| 1000 | in harmony |');
  });

  it('stand as they are where it is not', async () => {
    expect(await moods({ format: 'ndjson' })).toContain('{"id":1001,"mood":"=wild"}');
    const { status } = await labelled.get('/api/tables/odd/export?format=csv&value-labels=maybe');
    expect(status).toBe(400);
  });
});
