import { applyChanges, type Change } from '@ephoros/core/change';
import fc from 'fast-check';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { createClient, ServiceError, type Client, type Row } from '../../../client/src/index.ts';
import { startService, type TestService } from '../testing/service.ts';

const rounds = Number(process.env.EPHOROS_ROUNDS ?? 60);
jest.setTimeout(60_000 + rounds * 1_000);

let service: TestService;
let client: Client;
let drop: () => Promise<void>;

const columns = `id int primary key, n int, big bigint, d numeric(8,2), x numeric, f double precision,
  s text, b boolean not null, day date, at timestamptz, code varchar(3), l int[]`;

beforeAll(async () => {
  const made = await freshDatabase('change_agreement', [`create table t (${columns})`]);
  ({ drop } = made);
  const configuration = 'tables: { t: { changes: { add: true, change: true, remove: true } } }';
  service = await startService(made.url, configuration, { changes: made.url });
  client = createClient({ url: `${service.url}/api` });
});
afterAll(async () => {
  await service.close();
  await drop();
});

/** Small pools, so that keys and values meet; some are none of their type. */
const pools: Readonly<Record<string, readonly unknown[]>> = {
  n: [null, 0, 7, '8', -3, 1.5, 2 ** 31],
  big: [null, '9223372036854775807', 5, '9223372036854775808'],
  d: [null, '1', '1.5', 2, '1.50', '0.005', '999999.99', '1000000'],
  x: [null, '1.10', '1.1', '100'],
  f: [null, 0.1, 'NaN', -2, '1e3'],
  s: [null, '', 'a', 'A', 'ä ', 3],
  b: [true, false, null],
  day: [null, '2024-02-29', '2023-02-29'],
  at: [null, '2024-01-01T10:00:00Z', '2024-01-01T10:00:00.5Z', '2024-01-01'],
  code: [null, 'abc', 'abcd'],
  l: [null, [], [1, null], ['x']],
};
const names = Object.keys(pools);
const values = fc
  .uniqueArray(fc.constantFrom(...names), { minLength: 1, maxLength: 4 })
  .chain((chosen) =>
    fc
      .tuple(...chosen.map((name) => fc.constantFrom(...(pools[name] ?? []))))
      .map((drawn) => Object.fromEntries(chosen.map((name, index) => [name, drawn[index]]))),
  );
const key = fc.integer({ min: 1, max: 9 }).map((id) => [String(id)]);

/** What is visible is what is there, or another value. */
const observed = fc.record({
  right: fc.boolean(),
  of: fc.subarray(names, { maxLength: 3 }),
  wrong: values,
});
type Drawn =
  | { kind: 'add'; id: number; values: Record<string, unknown> }
  | {
      kind: 'change' | 'remove';
      key: string[];
      values: Record<string, unknown>;
      observed: { right: boolean; of: string[]; wrong: Record<string, unknown> };
    }
  | { kind: 'set'; below: number; count: number | undefined; values: Record<string, unknown> };
const change: fc.Arbitrary<Drawn> = fc.oneof(
  fc.record({ kind: fc.constant('add' as const), id: fc.integer({ min: 1, max: 9 }), values }),
  fc.record({ kind: fc.constantFrom('change' as const, 'remove' as const), key, values, observed }),
  fc.record({ kind: fc.constantFrom('change' as const), key, values, observed }),
  fc.record({
    kind: fc.constant('set' as const),
    below: fc.integer({ min: 0, max: 6 }),
    count: fc.option(fc.integer({ min: 0, max: 4 }), { nil: undefined }),
    values,
  }),
);

function written(drawn: Drawn, rows: readonly Row[]): Change {
  if (drawn.kind === 'add')
    return { kind: 'add', values: { id: drawn.id, b: true, ...drawn.values } };
  if (drawn.kind === 'set') {
    const { below, count, values: own } = drawn;
    return {
      kind: 'set',
      filter: `id < ${below}`,
      values: own as Row,
      ...(count === undefined ? {} : { count }),
    };
  }
  const { key: of, observed: scanned, values: own } = drawn;
  const row = rows.find(({ id }) => JSON.stringify(id) === of[0]);
  const right = Object.fromEntries(scanned.of.map((name) => [name, row?.[name] ?? null]));
  const was = (scanned.right ? right : scanned.wrong) as Row;
  return drawn.kind === 'remove'
    ? { kind: 'remove', key: of, was }
    : { kind: 'change', key: of, was, values: own as Row };
}

async function all(): Promise<readonly Row[]> {
  return (await client.rows('t', { limit: 100 })).rows;
}

it('the service and memory make the same of random sets, with the same conflicts and errors', async () => {
  const table = await client.describe('t');
  const kinds = new Map<string, number>();
  await fc.assert(
    fc.asyncProperty(fc.array(change, { minLength: 1, maxLength: 4 }), async (drawn) => {
      const before = await all();
      const changes = drawn.map((one) => written(one, before));
      const applied = applyChanges(before, changes, table);
      let answer: unknown;
      try {
        answer = {
          kind: 'saved',
          outcomes: (await client.changes.save(changes, { table: 't' })).outcomes,
        };
      } catch (thrown) {
        if (!(thrown instanceof ServiceError)) throw thrown;
        const { status, outcomes, problems } = thrown;
        answer =
          status === 409
            ? { kind: 'conflict', outcomes }
            : {
                kind: 'refused',
                problems: problems.map(({ code, change: at, column }) => [code, at, column]),
              };
      }
      kinds.set(applied.kind, (kinds.get(applied.kind) ?? 0) + 1);
      switch (applied.kind) {
        case 'saved': {
          expect(answer).toEqual({ kind: 'saved', outcomes: applied.answer.outcomes });
          const sorted = [...applied.rows].sort((one, other) => Number(one.id) - Number(other.id));
          expect(await all()).toEqual(sorted);
          break;
        }
        case 'conflict':
          expect(answer).toEqual({ kind: 'conflict', outcomes: applied.outcomes });
          break;
        case 'refused':
          expect(answer).toEqual({
            kind: 'refused',
            problems: applied.problems.map(({ code, change: at, column }) => [code, at, column]),
          });
      }
    }),
    { numRuns: rounds },
  );
  if (rounds >= 60) expect([...kinds.keys()].sort()).toEqual(['conflict', 'refused', 'saved']);
});
