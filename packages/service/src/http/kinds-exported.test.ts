import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { tableFromIPC, Type, type Vector } from 'apache-arrow';
import pg from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { kinds, kindsSetUp } from '../testing/kinds.ts';
import { startService, type TestService } from '../testing/service.ts';

/** As many rows as the longest list of values, once more, and one that has none. */
const rows = Math.max(...kinds.map(({ values }) => values.length)) * 2;
const walked = kinds.filter(({ ordered, sortable }) => ordered !== false && sortable !== false);
/** Bytes are Base64 in files, which COPY does not read as such. */
const columns = ['id', ...kinds.map(({ name }) => name).filter((name) => name !== 'bin')];

let url: string;
let drop: () => Promise<void>;
let service: TestService;
let database: pg.Client;

beforeAll(async () => {
  const list = kinds.map(({ name, type }) => `${name} ${type}`).join(', ');
  ({ url, drop } = await freshDatabase('ephoros_kinds_taken_out', [
    ...kindsSetUp,
    `create table every (id int primary key, ${list})`,
  ]));
  database = new pg.Client({ connectionString: url });
  await database.connect();
  const places = kinds.map((_kind, index) => `$${index + 2}`).join(', ');
  for (let id = 0; id < rows; id += 1) {
    const values = kinds.map(({ values: own }) => own[id % own.length] ?? null);
    await database.query(`insert into every values ($1, ${places})`, [id, ...values]);
  }
  await database.query('insert into every (id) values ($1)', [rows]);
  for (const { name } of walked) await database.query(`create index on every (${name})`);
  await database.query('create table taken (like every)');
  await database.query('analyze');
  service = await startService(url);
});

afterAll(async () => {
  await service.close();
  await database.end();
  await drop();
});

const file = async (parameters: Readonly<Record<string, string>>): Promise<string> => {
  const search = new URLSearchParams(parameters).toString();
  const response = await fetch(`${service.url}/api/tables/every/export?${search}`);
  expect(response.status).toBe(200);
  return response.text();
};

/** A value of a column as Arrow counts it, as a text, reported by PostgreSQL. */
function inDatabase({ type }: Vector, name: string): string {
  const moment = `case when isfinite(${name}) then (extract(epoch from ${name}) * 1000000)::int8
    when ${name} > '2000-01-01' then ${2n ** 63n - 1n} when ${name} is not null then ${-(2n ** 63n)} end::text`;
  switch (type.typeId) {
    case Type.Date:
      return `case when isfinite(${name}) then ${name} - date '1970-01-01'
        when ${name} > '2000-01-01' then ${2 ** 31 - 1} when ${name} is not null then ${-(2 ** 31)} end::text`;
    case Type.Timestamp:
      return moment;
    case Type.Time:
      return `(extract(epoch from ${name}) * 1000000)::int8::text`;
    case Type.Binary:
      return `encode(${name}, 'hex')`;
    case Type.Decimal:
      return `trunc(${name} * 100)::text`;
    default:
      // As it is written out, with the spaces of char(n).
      return `case when num_nulls(${name}) = 0 then concat(${name}) end`;
  }
}

/** The number or text that a vector holds, before its library makes anything of it. */
function heldAt(vector: Vector, index: number): string | null {
  if (!vector.isValid(index)) return null;
  const { typeId } = vector.type;
  if (typeId === Type.Date || typeId === Type.Timestamp || typeId === Type.Time) {
    return String((vector.data[0]?.values as BigInt64Array)[index]);
  }
  const value: unknown = vector.get(index);
  if (typeId === Type.Bool) return value === true ? 't' : 'f';
  if (typeId === Type.Binary) return Buffer.from(value as Uint8Array).toString('hex');
  if (typeId === Type.Decimal) return BigInt.asIntN(128, wordsOf(value as Uint32Array)).toString();
  return String(value);
}

function wordsOf(words: Uint32Array): bigint {
  return [...words].reduceRight((so, word) => (so << 32n) | BigInt(word), 0n);
}

describe('values of every type', () => {
  it('are the same in CSV, as PostgreSQL reads it', async () => {
    const csv = await file({ format: 'csv', columns: columns.join(','), formulas: 'true' });
    const names = columns.map((name) => `"${name}"`).join(', ');
    await pipeline(
      Readable.from([csv]),
      database.query(copyFrom(`copy taken (${names}) from stdin (format csv, header)`)),
    );
    for (const name of columns) {
      const { rows: differing } = await database.query(
        `select e.id, e."${name}"::text as was, t."${name}"::text as is from every e join taken t using (id)
         where e."${name}"::text is distinct from t."${name}"::text`,
      );
      expect([name, differing]).toEqual([name, []]);
    }
    expect((await database.query('select 1 from taken')).rowCount).toBe(rows + 1);
  });

  it('are in lines of JSON what they are in answers', async () => {
    const lines = (await file({ format: 'ndjson', sort: 'id' })).trimEnd().split('\n');
    const { body } = await service.get('/api/tables/every/rows?sort=id&limit=1000');
    expect(lines.map((line) => JSON.parse(line) as unknown)).toEqual(body.rows);
    // Of columns that the database itself writes, too.
    const some = 'id,txt,num,ts,bool,iv,mood';
    const own = (await file({ format: 'ndjson', sort: 'id', columns: some })).trimEnd().split('\n');
    const same = await service.get(`/api/tables/every/rows?sort=id&limit=1000&columns=${some}`);
    expect(own.map((line) => JSON.parse(line) as unknown)).toEqual(same.body.rows);
  });

  it('are in Arrow in the type that holds them, as PostgreSQL counts them', async () => {
    const search = new URLSearchParams({ format: 'arrow', sort: 'id' }).toString();
    const response = await fetch(`${service.url}/api/tables/every/export?${search}`);
    const table = tableFromIPC(new Uint8Array(await response.arrayBuffer()));
    expect(table.numRows).toBe(rows + 1);
    await database.query(
      "set intervalstyle = iso_8601; set timezone = 'UTC'; set bytea_output = hex",
    );
    for (const { name } of kinds) {
      const vector = table.getChild(name)!;
      const { rows: wanted } = await database.query<{ value: string | null }>(
        `select ${inDatabase(vector, name)} as value from every order by id`,
      );
      const held = wanted.map((_row, index) => heldAt(vector, index));
      const isFloat = vector.type.typeId === Type.Float;
      // Floats are the same numbers, however they are spelled.
      const same = (value: string | null): string | null =>
        value === null || !isFloat ? value : String(Math.fround(Number(value)));
      expect([name, held.map(same)]).toEqual([name, wanted.map(({ value }) => same(value))]);
    }
    const types = table.schema.fields.map(({ name, type }) => [name, String(type)]);
    expect(Object.fromEntries(types)).toMatchObject({
      ...{ i2: 'Int16', i4: 'Int32', i8: 'Int64', num: 'Utf8', dec: 'Decimal[10e+2]' },
      ...{ f4: 'Float32', f8: 'Float64', bool: 'Bool', day: 'Date32<DAY>', bin: 'Binary' },
      ...{
        ts: 'Timestamp<MICROSECOND>',
        tsz: 'Timestamp<MICROSECOND, UTC>',
        tm: 'Time64<MICROSECOND>',
      },
      ...{ txt: 'Utf8', li: 'Utf8' },
    });
  });

  it('make a workbook that opens', async () => {
    const search = new URLSearchParams({ format: 'xlsx' }).toString();
    const response = await fetch(`${service.url}/api/tables/every/export?${search}`);
    const bytes = Buffer.from(await response.arrayBuffer());
    expect([response.status, bytes.subarray(0, 2).toString()]).toEqual([200, 'PK']);
    expect(response.headers.get('ephoros-rows')).toBe(String(rows + 1));
  });

  it.each(walked.map(({ name }) => name))(
    'are found along an index as they are by counting: %s',
    async (name) => {
      const path = `/api/tables/every/values/${name}?limit=100`;
      for (const sort of [name, `-${name}`]) {
        const [counted, plain] = await Promise.all([
          service.get(`${path}&sort=${sort}`),
          service.get(`${path}&sort=${sort}&counts=false`),
        ]);
        // Not every type can be grouped.
        if (counted.status !== 200) {
          expect([name, plain.status]).toEqual([name, counted.status]);
          continue;
        }
        const values = (body: any): unknown => body.values.map(({ value }: any) => value);
        expect(values(plain.body)).toEqual(values(counted.body));
        const filters = (body: any): unknown => body.values.map(({ filter }: any) => filter);
        expect(filters(plain.body)).toEqual(filters(counted.body));
      }
    },
  );
});

describe('groups of every type', () => {
  it('have the same rows by the places of all groups as by their own condition', async () => {
    const slow = await startService(url, '', {
      deferAfter: 0,
      positionIndex: { costly: 0, staleAfter: 100 },
    });
    for (const { name } of walked) {
      const { body } = await slow.get(`/api/tables/every/values/${name}?limit=100&sort=${name}`);
      for (const { filter } of body.values ?? []) {
        // Values that no filter can spell are no group of one's own.
        if (filter === null) continue;
        const search = new URLSearchParams({ filter, sort: '-txt', columns: 'id', limit: '50' });
        const answer = await until(
          () => slow.get(`/api/tables/every/rows?${search.toString()}`),
          ({ status }) => status !== 503,
        );
        const { body: own } = await service.get(`/api/tables/every/rows?${search.toString()}`);
        expect([name, filter, answer.body.rows]).toEqual([name, filter, own.rows]);
      }
    }
    await slow.close();
  });
});
