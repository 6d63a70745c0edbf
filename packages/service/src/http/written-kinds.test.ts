import pg from 'pg';
import { createClient, type Client, type Row } from '../../../client/src/index.ts';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../testing/service.ts';
import { specimenKinds, specimens } from '../testing/written-kinds.ts';

let service: TestService;
let client: Client;
let sql: pg.Client;
let drop: () => Promise<void>;

beforeAll(async () => {
  const made = await freshDatabase('written_kinds', specimens);
  ({ drop } = made);
  const changes = '{ changes: { add: true, change: true, remove: true } }';
  const configuration = `tables: { specimens: ${changes}, parted: ${changes} }`;
  service = await startService(made.url, configuration, { changes: made.url, records: made.url });
  client = createClient({ url: `${service.url}/api` });
  sql = new pg.Client({ connectionString: made.url });
  await sql.connect();
  await sql.query("set extra_float_digits = 3; set timezone = 'UTC'");
});
afterAll(async () => {
  await sql.end();
  await service.close();
  await drop();
});

/** Every column of some rows as PostgreSQL writes it; undefined where there is no such row. */
async function textsOf(table: string, ids: readonly string[]): Promise<readonly unknown[]> {
  const kinds = specimenKinds.filter((kind) => kind.table === table);
  const texts = kinds.map(({ name }) => `"${name}"::text as "${name}"`).join(', ');
  const { rows } = await sql.query<Row>(
    `select id, mark, ${texts} from ${table} where id = any ($1)`,
    [ids],
  );
  return ids.map((id) => rows.find((row) => JSON.stringify(row.id) === id));
}

async function idsOf(table: string, name: string): Promise<readonly string[]> {
  const { rows } = await sql.query<{ id: number }>(
    `select id from ${table} where "${name}" is not null order by id`,
  );
  return rows.map(({ id }) => String(id));
}

describe.each(specimenKinds)('rows of $table with $type ($name)', ({ table, name }) => {
  it('are added with the values that answers show', async () => {
    const ids = await idsOf(table, name);
    const rows = await Promise.all(ids.map((id) => client.row(table, [id])));
    // JSON has no infinite numbers: JavaScript writes null for 1e400.
    const shown = rows.map((row) => row[name] ?? null);
    const values = name === 'u_js' ? (JSON.parse(JSON.stringify(shown)) as Row[string][]) : shown;
    const added = await client.changes.save(
      values.map((value) => ({ kind: 'add', values: { [name]: value } })),
      { table },
    );
    expect(added.outcomes).toMatchObject(
      values.map((value) => ({ kind: 'done', row: { [name]: value } })),
    );
    const keys = added.outcomes.flatMap((one) => ('key' in one ? one.key : []));
    const made = await textsOf(table, keys);
    const undone = await client.changes.undo(added.id ?? '');
    expect(await textsOf(table, keys)).toEqual(keys.map(() => undefined));
    await client.changes.undo(undone.id ?? '');
    expect(await textsOf(table, keys)).toEqual(made);
  });

  it('come back byte for byte: removed, changed, undone, and undone again', async () => {
    const ids = await idsOf(table, name);
    const texts = () => textsOf(table, ids);
    const before = await texts();
    const rows = await Promise.all(ids.map((id) => client.row(table, [id])));
    // As a page sends it that has read the rows, which shows none of their texts.
    const removed = await client.changes.save(
      rows.map((was, index) => ({ kind: 'remove', key: [ids[index] ?? ''], was })),
      { table },
    );
    const none = ids.map(() => undefined);
    expect(await texts()).toEqual(none);
    const back = await client.changes.undo(removed.id ?? '');
    expect(await texts()).toEqual(before);
    const again = await client.changes.undo(back.id ?? '');
    expect(await texts()).toEqual(none);
    await client.changes.undo(again.id ?? '');
    expect(await texts()).toEqual(before);
    const emptied = await client.changes.save(
      rows.map(({ id: _id, ...was }, index) => {
        const key = [ids[index] ?? ''];
        return { kind: 'change', key, was, values: { mark: 'm', [name]: null } };
      }),
      { table },
    );
    const without = await texts();
    expect(without).not.toEqual(before);
    const filled = await client.changes.undo(emptied.id ?? '');
    expect(await texts()).toEqual(before);
    await client.changes.undo(filled.id ?? '');
    expect(await texts()).toEqual(without);
    await sql.query(`delete from ${table} where id = any ($1)`, [ids]);
  });
});
