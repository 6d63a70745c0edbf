import fc from 'fast-check';
import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { sendTo, type Answered } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

/** Random sets; `EPHOROS_ROUNDS` plays others. */
const rounds = Number(process.env.EPHOROS_ROUNDS ?? 100);
jest.setTimeout(60_000 + rounds * 1_000);

let service: TestService;
let sql: pg.Client;
let drop: () => Promise<void>;

const tables = ['parents', 'children', 'pairs'] as const;

beforeAll(async () => {
  const made = await freshDatabase('sets_and_sql', [
    'create table parents (id int primary key, code int unique, n int check (n < 8))',
    `create table children (id int primary key,
       parent int references parents on delete cascade,
       spare int references parents on delete set null, u int unique deferrable)`,
    'create table pairs (id int primary key, partner int references pairs deferrable initially deferred)',
  ]);
  ({ drop } = made);
  const changes = tables
    .map((name) => `${name}: { changes: { add: true, change: true, remove: true } }`)
    .join(', ');
  service = await startService(made.url, `tables: { ${changes} }`, {
    changes: made.url,
    records: made.url,
  });
  sql = new pg.Client({ connectionString: made.url });
  await sql.connect();
});
afterAll(async () => {
  await sql.end();
  await service.close();
  await drop();
});

const small = fc.integer({ min: 1, max: 6 });
const value = fc.option(small, { nil: null });
const columns = {
  parents: { code: value, n: fc.integer({ min: 5, max: 8 }) },
  children: { parent: value, spare: value, u: value },
  pairs: { partner: value },
} as const;

interface Drawn {
  readonly kind: 'add' | 'change' | 'remove';
  readonly table: (typeof tables)[number];
  readonly id: number;
  readonly values: Readonly<Record<string, number | null>>;
}

const drawn: fc.Arbitrary<Drawn> = fc.constantFrom(...tables).chain((table) =>
  fc.record({
    kind: fc.constantFrom('add' as const, 'change' as const, 'change' as const, 'remove' as const),
    table: fc.constant(table),
    id: small,
    values: fc.record(columns[table] as Record<string, fc.Arbitrary<number | null>>, {
      requiredKeys: Object.keys(columns[table]).slice(0, 1),
    }),
  }),
);

/** Sets that are about each row once. */
const sets = fc.uniqueArray(drawn, {
  minLength: 1,
  maxLength: 4,
  selector: ({ table, id }) => `${table} ${id}`,
});

function asChange({ kind, table, id, values }: Drawn): object {
  if (kind === 'add') return { kind, table, values: { id, ...values } };
  return { kind, table, key: [String(id)], ...(kind === 'change' && { values }) };
}

/** A change as one statement; how many rows it is about. */
async function perform({ kind, table, id, values }: Drawn): Promise<number> {
  const names = Object.keys(values);
  const given = Object.values(values);
  const places = names.map((_name, index) => `$${index + 2}`);
  const text = {
    add: `insert into ${table} (${['id', ...names].join(', ')}) values (${['$1', ...places].join(', ')})`,
    change: `update ${table} set ${names.map((name, index) => `${name} = $${index + 2}`).join(', ')} where id = $1`,
    remove: `delete from ${table} where id = $1`,
  }[kind];
  const { rowCount } = await sql.query(text, kind === 'remove' ? [id] : [id, ...given]);
  return rowCount ?? 0;
}

/** Whether some order of the changes is one that the database takes, as plain SQL; nothing of it stays. */
async function takesSomeOrder(changes: readonly Drawn[]): Promise<boolean> {
  for (const order of ordersOf(changes)) {
    await sql.query('begin');
    try {
      let isWhole = true;
      for (const change of order) isWhole = (await perform(change)) === 1 && isWhole;
      await sql.query('set constraints all immediate');
      if (isWhole) return true;
    } catch (thrown) {
      if (!(thrown instanceof pg.DatabaseError)) throw thrown;
    } finally {
      await sql.query('rollback');
    }
  }
  return false;
}

function ordersOf<One>(all: readonly One[]): readonly (readonly One[])[] {
  if (all.length <= 1) return [all];
  return all.flatMap((one, index) =>
    ordersOf([...all.slice(0, index), ...all.slice(index + 1)]).map((rest) => [one, ...rest]),
  );
}

async function content(): Promise<string> {
  const all = await Promise.all(
    tables.map((name) => sql.query(`select * from ${name} order by id`).then(({ rows }) => rows)),
  );
  return JSON.stringify(all);
}

const post = (path: string, body: object): Promise<Answered> =>
  sendTo('POST', `${service.url}/api${path}`, body);

it('a set is saved where plain SQL takes its changes in some order, and an undo restores all', async () => {
  const met = new Set<string>();
  await fc.assert(
    fc.asyncProperty(sets, async (changes) => {
      const before = await content();
      const isTaken = await takesSomeOrder(changes);
      const answer = await post('/changes', { changes: changes.map(asChange) });
      met.add(isTaken ? 'taken' : 'not taken');
      // More than plain statements take: rows that swap values.
      if (isTaken) expect([changes, answer.status]).toEqual([changes, 200]);
      if (answer.status !== 200) {
        expect(await content()).toBe(before);
        return;
      }
      const after = await content();
      const undone = await post(`/changes/${answer.body.id}/undo`, {});
      expect([changes, undone.status, undone.body.errors]).toEqual([changes, 200, undefined]);
      expect(await content()).toBe(before);
      await post(`/changes/${undone.body.id}/undo`, {});
      expect(await content()).toBe(after);
    }),
    { numRuns: rounds },
  );
  if (rounds >= 100) expect(met).toEqual(new Set(['taken', 'not taken']));
});

it('each change that is saved by itself holds with the others that are', async () => {
  await fc.assert(
    fc.asyncProperty(sets, async (changes) => {
      const before = await content();
      const answer = await post('/changes?mode=each', { changes: changes.map(asChange) });
      expect(answer.status).toBe(200);
      const done = changes.filter((_one, index) => answer.body.outcomes[index].kind === 'done');
      expect(answer.body.id === null).toBe(done.length === 0);
      // None is refused that could be saved by itself in an order with the others.
      if (done.length === 0) {
        expect(await content()).toBe(before);
        for (const one of changes) expect([one, await takesSomeOrder([one])]).toEqual([one, false]);
        return;
      }
      const undone = await post(`/changes/${answer.body.id}/undo`, {});
      expect([changes, undone.status, undone.body.errors]).toEqual([changes, 200, undefined]);
      expect(await content()).toBe(before);
      await post(`/changes/${undone.body.id}/undo`, {});
    }),
    { numRuns: rounds },
  );
});
