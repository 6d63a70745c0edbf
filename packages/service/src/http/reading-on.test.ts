import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import {
  ready,
  rowsPath,
  startService,
  type TestAnswer,
  type TestService,
} from '../testing/service.ts';

const name = 'ephoros_reading_on';
const rows = 12_000;

type Parameters = Readonly<Record<string, string>>;

let url: string;
let drop: () => Promise<void>;
let database: pg.Client;

beforeAll(async () => {
  const fresh = await freshDatabase(name, [
    // An index leads with k, which is nearly always the same; t takes its time to be compared, on any machine.
    'create table reaches (id int primary key, k int not null, t text not null collate "und-x-icu")',
    `insert into reaches select i, least(i, 3), repeat('lowmere', 1000) || (i * 7919) % 97 from generate_series(1, ${rows}) i`,
    'create index on reaches (k)',
    'analyze',
    // So that sorting is known to be dear.
    `alter database ${name} set cpu_operator_cost = 10`,
  ]);
  ({ url, drop } = fresh);
  database = new pg.Client({ connectionString: url });
  await database.connect();
});

afterAll(async () => {
  await database.end();
  await drop();
});

const sort = 'k,-t';

const page = (parameters: Parameters): string =>
  rowsPath('reaches', { sort, columns: 'id', shape: 'arrays', limit: '50', ...parameters });

const start = (more: object = {}): Promise<TestService> =>
  startService(url, '', { positionIndex: { costly: 100 }, ...more });

const wayTo = async (service: TestService, parameters: Parameters): Promise<unknown> =>
  (await ready(service, page({ ...parameters, explain: 'true' }))).body.explanation.way.from;

const inOrder = async (offset: number): Promise<unknown[]> => {
  const by = 'k, t desc, id desc';
  const text = `select id from reaches order by ${by} limit 50 offset ${offset}`;
  return (await database.query<[number]>({ text, rowMode: 'array' })).rows;
};

describe('rows next to others, in an order that an index leads but does not give', () => {
  let there: TestAnswer;

  it('are read where these were found', async () => {
    const service = await start({ deferAfter: 60_000 });
    there = await ready(service, page({ offset: '6000' }));
    expect(there.body.rows).toEqual(await inOrder(6_000));
    for (const [beside, offset] of [
      [{ after: there.body.next }, 6_050],
      [{ before: there.body.previous }, 5_950],
    ] as const) {
      expect(await wayTo(service, beside)).toBe('places');
      expect((await ready(service, page(beside))).body.rows).toEqual(await inOrder(offset));
    }
    // The first rows are those of now, as long as that takes no time.
    expect(await wayTo(service, {})).toBe('start');
    await service.close();
  });

  it('are so as well where all were found for another reason, once that takes long otherwise', async () => {
    const service = await start({ deferAfter: 400 });
    await until(
      () => service.get(`/api/tables/reaches/mileposts?sort=${sort}&ticks=5`),
      ({ body }) => body.state === 'ready',
    );
    expect(await wayTo(service, { after: there.body.next })).toBe('places');
    expect(await wayTo(service, {})).toBe('places');
    expect((await ready(service, page({}))).body.rows).toEqual(await inOrder(0));
    await service.close();
  });
});
