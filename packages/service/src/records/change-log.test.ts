import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { sendTo } from '../testing/sending.ts';
import { startService } from '../testing/service.ts';
import { ChangeLog, Records } from './index.ts';

const configuration = 'tables: { quays: { changes: { change: true } } }';

/** A trigger that stores, at the end of each transaction, whether it waits for the disk. */
const noting = `
  create table public.endings (set_id text, flushed text);
  create function public.note_ending() returns trigger language plpgsql as $$ begin
    insert into public.endings values (new.id, current_setting('synchronous_commit'));
    return null;
  end $$;
  create constraint trigger note after insert on ephoros.change_sets deferrable initially deferred
    for each row execute function public.note_ending()`;

describe('the note of a set that is about to be saved', () => {
  let url: string;
  let database: pg.Client;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    ({ url, drop } = await freshDatabase('change_log', [
      'create table quays (id int primary key, name text)',
      "insert into quays values (1, 'North'), (2, 'South')",
    ]));
    database = new pg.Client({ connectionString: url });
    await database.connect();
    // The tests' server does not wait for the disk by default.
    await database.query(
      `alter database ${new URL(url).pathname.slice(1)} set synchronous_commit = on`,
    );
    const records = new Records(url);
    await records.ready();
    await records.close();
    await database.query(noting);
  });

  afterAll(async () => {
    await database.end();
    await drop();
  });

  beforeEach(() => database.query('truncate public.endings'));

  const endings = async (): Promise<readonly string[]> =>
    (await database.query<{ flushed: string }>('select flushed from public.endings')).rows.map(
      ({ flushed }) => flushed,
    );

  it('is written to disk with the set itself, where one server has both', async () => {
    const service = await startService(url, configuration, { records: url, changes: url });
    try {
      const { status } = await sendTo('POST', `${service.url}/api/tables/quays/changes`, {
        changes: [{ kind: 'change', key: ['1'], was: { name: 'North' }, values: { name: 'Nord' } }],
      });
      expect(status).toBe(200);
      expect(await endings()).toEqual(['off']);
      const history = await service.get('/api/tables/quays/history');
      expect(history.body).toMatchObject({ entries: [{ before: { name: 'North' } }] });
    } finally {
      await service.close();
    }
  });

  it('is on disk before the set, where another server has the records', async () => {
    const records = new Records(url);
    try {
      const log = new ChangeLog(records, 30);
      const set = { id: ChangeLog.newId(), caller: 'a', transaction: '7', changes: [] };
      await log.begin({ ...set, server: '1700000000.000001' });
      expect(await endings()).toEqual(['on']);
    } finally {
      await records.close();
    }
  });
});
