import { join } from 'node:path';
import pg from 'pg';
import { startCluster, type Cluster } from '../../../../demo/src/index.ts';
import { perform } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { editedHarbour, mistakesIn, type EditedHarbour } from '../testing/editing.ts';
import type { Answered } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

/** How often each of the writers changes something: 500 make ten thousand changes. */
const rounds = Number(process.env.EPHOROS_ROUNDS ?? 20);

jest.setTimeout(120_000 + rounds * 2_000);

describe('many who write at once', () => {
  let harbour: EditedHarbour;
  beforeAll(async () => {
    harbour = await editedHarbour('changes_meanwhile');
  });
  afterAll(() => harbour.close());

  const change = (id: number, was: object, values: object): Promise<Answered> =>
    harbour.post('/tables/berths/changes', {
      changes: [{ kind: 'change', key: [String(id)], was, values }],
    });
  const feeOf = async (id: number): Promise<string> =>
    (await harbour.service.get(`/api/tables/berths/rows/${id}`)).body.row.fee;

  it('lose no change: everyone learns what truly happened', async () => {
    const rows = [1, 2, 3];
    const before = await Promise.all(rows.map(feeOf));
    const done = new Map(rows.map((id) => [id, 0]));
    const writers = Array.from({ length: 20 }, async (_, writer) => {
      for (let round = 0; round < rounds; round += 1) {
        const id = rows[(writer + round) % rows.length] ?? 1;
        const fee = await feeOf(id);
        const next = (Number(fee) + 1).toFixed(2);
        const answer = await change(id, { fee }, { fee: next });
        const [outcome] = answer.body.outcomes;
        if (answer.status === 200) {
          expect(outcome.row.fee).toBe(next);
          done.set(id, (done.get(id) ?? 0) + 1);
        } else {
          expect([answer.status, outcome.kind]).toEqual([409, 'conflict']);
          expect(outcome.now.fee).not.toBe(fee);
        }
      }
    });
    await Promise.all(writers);
    const after = await Promise.all(rows.map(feeOf));
    const grown = rows.map((_id, index) => Number(after[index]) - Number(before[index]));
    expect(grown).toEqual(rows.map((id) => done.get(id)));
    expect(Math.min(...grown)).toBeGreaterThan(0);
    const { body } = await harbour.service.get('/api/tables/berths/rows/1/history?limit=100');
    const values = body.entries.map(({ after: one }: any) => one.fee);
    expect(new Set(values).size).toBe(values.length);
  });

  it('get in each other’s way and are done one after the other, each exactly once', async () => {
    const both = (first: string, second: string) => ({
      changes: [first, second].map((id) => ({
        kind: 'change',
        key: [id],
        values: { note: `${first}${second}` },
      })),
    });
    const answers = await Promise.all(
      Array.from({ length: rounds }, (_, index) =>
        harbour.post('/tables/berths/changes', index % 2 === 0 ? both('5', '6') : both('6', '5')),
      ),
    );
    expect(answers.map(({ status }) => status)).toEqual(answers.map(() => 200));
  });

  it('are not waited for for ever', async () => {
    const other = new pg.Client({ connectionString: harbour.url });
    await other.connect();
    try {
      await other.query('begin; update berths set note = note where id = 7');
      const answer = await change(7, {}, { note: 'mine' });
      expect([answer.status, answer.body.type]).toEqual([503, 'urn:ephoros:problem:rows-locked']);
      expect(answer.headers.get('retry-after')).toBe('1');
      await other.query('rollback');
      expect((await change(7, {}, { note: 'mine' })).status).toBe(200);
    } finally {
      await other.end();
    }
  });

  it('may change the table itself', async () => {
    await harbour.sql('alter table berths alter column note type varchar(3) using left(note, 3)');
    // By the description, where the database has reported that the table is another one; else by itself.
    const [message] = mistakesIn(await change(8, {}, { note: 'longer' }));
    expect(['0 note text-too-long', '0 note value-refused']).toContain(message);
    const post = () =>
      harbour.post('/tables/quays/changes', {
        changes: [{ kind: 'change', key: ['1'], values: { place: 'by the sea' } }],
      });
    await harbour.sql('alter table quays add column place text');
    await until(post, ({ status }) => status === 200);
    await harbour.sql('alter table quays drop column place');
    expect(mistakesIn(await post())).toEqual(['0 place unknown-column']);
  });

  it('see at once what was written', async () => {
    const total = async (): Promise<number> =>
      (await harbour.service.get('/api/tables/quays/rows?limit=1')).body.window.total;
    const before = await total();
    await harbour.post('/tables/quays/changes', {
      changes: [{ kind: 'add', values: { name: 'West' } }],
    });
    await until(total, (now) => now === before + 1);
  });
});

/** Kills a process of the server, so that it begins again with what was committed. */
async function crash(url: string): Promise<number> {
  const client = new pg.Client({ connectionString: url });
  client.on('error', () => undefined);
  try {
    await client.connect();
    const { rows } = await client.query<{ pid: number }>('select pg_backend_pid() as pid');
    process.kill(rows[0]?.pid ?? 0, 'SIGKILL');
    return 1;
  } catch {
    return 0;
  } finally {
    await client.end().catch(() => undefined);
  }
}

describe('a database that breaks in the midst of it', () => {
  let cluster: Cluster;
  let service: TestService;

  beforeAll(async () => {
    cluster = await startCluster({
      folder: join(process.cwd(), '.ephoros', 'outage-changes'),
      port: 54_790,
      settings: { synchronous_commit: 'on' },
    });
    await perform(cluster.url('postgres'), [
      'drop table if exists lines; drop table if exists orders; drop schema if exists ephoros cascade',
      'create table orders (id int primary key, number int not null)',
      'create table lines (id int primary key, order_id int not null references orders)',
    ]);
    const url = cluster.url('postgres');
    const configuration =
      'tables: { orders: { changes: { add: true } }, lines: { changes: { add: true } } }';
    service = await startService(url, configuration, { records: url, changes: url });
  });
  afterAll(async () => {
    await service.close();
    await cluster.stop();
  });

  it('has each set wholly or not at all, and exactly once when all are sent again', async () => {
    const sets = rounds * 2;
    const send = async (number: number): Promise<number> => {
      try {
        const response = await fetch(`${service.url}/api/changes`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json', 'Idempotency-Key': `set ${number}` },
          body: JSON.stringify({
            changes: [
              { kind: 'add', table: 'orders', values: { id: number, number } },
              { kind: 'add', table: 'lines', values: { id: number * 2, order_id: number } },
              { kind: 'add', table: 'lines', values: { id: number * 2 + 1, order_id: number } },
            ],
          }),
        });
        await response.text();
        return response.status;
      } catch {
        return 0;
      }
    };
    let sent = 0;
    let failed = 0;
    let going = true;
    let crashes = 0;
    const kill = async (): Promise<void> => {
      while (going) {
        if (crashes === 0 && sent > sets / 2) {
          // The server takes one process that dies like this for a sign that its memory is broken.
          crashes = await crash(cluster.url('postgres'));
        }
        await perform(cluster.url('postgres'), [
          `select pg_terminate_backend(pid) from pg_stat_activity where application_name like 'ephoros%'`,
        ]).catch(() => undefined);
      }
    };
    const killing = kill();
    const writers = Array.from({ length: 6 }, async () => {
      for (let number = (sent += 1); number <= sets; number = sent += 1) {
        if ((await send(number)) !== 200) failed += 1;
      }
    });
    await Promise.all(writers);
    going = false;
    await killing;
    expect(failed).toBeGreaterThan(0);
    expect(crashes).toBe(1);
    const whole = async (): Promise<string[]> => {
      const client = new pg.Client({ connectionString: cluster.url('postgres') });
      await client.connect();
      const { rows } = await client.query<{ lines: string }>(
        'select count(l)::text as lines from orders o left join lines l on l.order_id = o.id group by o.id',
      );
      await client.end();
      return rows.map(({ lines }) => lines);
    };
    const some = await whole();
    expect(new Set(some)).toEqual(new Set(some.length === 0 ? [] : ['2']));
    for (let number = 1; number <= sets; number += 1) {
      await until(
        () => send(number),
        (status) => status === 200,
        60_000,
      );
    }
    expect(await whole()).toEqual(Array.from({ length: sets }, () => '2'));
    const { body } = await service.get('/api/tables/orders/history?limit=100');
    expect(new Set(body.entries.map(({ key }: any) => key[0])).size).toBe(body.entries.length);
  });
});
