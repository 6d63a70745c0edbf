import pg from 'pg';
import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { rowsPath, startService } from '../testing/service.ts';
import { connectionOf, Database, Failure } from './index.ts';

describe('a borrowed pool', () => {
  it('gets its connections back clean, also where the settings of a session fail', async () => {
    const { lowmere } = testDatabases();
    const pool = new pg.Pool({ connectionString: lowmere, max: 1 });
    const database = new Database({ pool, connections: 1 });
    try {
      const client = await pool.connect();
      // Whatever the application does with its session: here a transaction that has failed already.
      await client.query('begin');
      await client.query('select 1 / 0').catch(() => undefined);
      client.release();
      await expect(database.run({ text: 'select 1', parameters: [] })).rejects.toBeInstanceOf(
        Failure,
      );
      expect((await pool.query('select 2 as n')).rows).toEqual([{ n: 2 }]);
    } finally {
      await database.close();
      await pool.end();
    }
  });

  it('needs no password of its own to cancel a statement', async () => {
    const { maintenance } = testDatabases();
    const fresh = await freshDatabase('ephoros_cancelled', ['select 1']);
    await perform(maintenance, [
      'drop role if exists ephoros_limited',
      `create role ephoros_limited login connection limit 1 password 'secret'`,
    ]);
    const url = new URL(fresh.url);
    url.username = 'ephoros_limited';
    const { hostname: host, port } = url;
    const own = {
      host,
      port: Number(port),
      user: 'ephoros_limited',
      database: 'ephoros_cancelled',
    };
    const pool = new pg.Pool({ ...own, password: 'secret', max: 1 });
    const database = new Database({ pool, connections: 1 });
    const watcher = new pg.Client({ connectionString: fresh.url });
    await watcher.connect();
    const running = async (): Promise<number> =>
      (
        await watcher.query(
          `select 1 from pg_stat_activity where datname = current_database() and state = 'active' and query like '%pg_sleep%' and pid <> pg_backend_pid()`,
        )
      ).rowCount ?? 0;
    try {
      const controller = new AbortController();
      const pending = database.run(
        { text: 'select pg_sleep(20)', parameters: [] },
        { signal: controller.signal },
      );
      pending.catch(() => undefined);
      await until(running, (count) => count === 1);
      controller.abort();
      await expect(pending).rejects.toMatchObject({ kind: 'cancelled' });
      await until(running, (count) => count === 0);
      expect((await pool.query('select 2 as n')).rows).toEqual([{ n: 2 }]);
    } finally {
      await database.close();
      await pool.end();
      await watcher.end();
      await fresh.drop();
      await perform(maintenance, ['drop role ephoros_limited']);
    }
  });
});

describe('the settings of a session', () => {
  it('hold whatever the connection string, the role or the database say', async () => {
    const fresh = await freshDatabase('ephoros_settings', [
      'create table t (id int primary key, day date, span interval, bin bytea)',
      `insert into t values (1, '2024-02-29', '1 day', '\\x00ff')`,
      `alter database ephoros_settings set datestyle = 'German'`,
      `alter database ephoros_settings set default_transaction_read_only = off`,
    ]);
    const options = encodeURIComponent(
      '-c datestyle=SQL -c intervalstyle=postgres_verbose -c search_path=pg_catalog',
    );
    const service = await startService(`${fresh.url}?options=${options}`);
    const database = new Database({ url: `${fresh.url}?options=${options}` });
    try {
      const { body } = await service.get(rowsPath('t'));
      expect(body.rows).toEqual([{ id: 1, day: '2024-02-29', span: 'P1D', bin: 'AP8=' }]);
      const { rows } = await database.run({
        text: `select current_setting('search_path'), current_setting('transaction_read_only'), current_setting('statement_timeout')`,
        parameters: [],
      });
      expect(rows).toEqual([['pg_catalog', 'on', '15s']]);
    } finally {
      await service.close();
      await database.close();
      await fresh.drop();
    }
  });

  it('are blamed for nothing that a view does of itself', async () => {
    const fresh = await freshDatabase('ephoros_view', [
      'create view broken as select 1 / (n - 1) as a from generate_series(1, 3) n',
      'create table fine (id int primary key, v text)',
      `insert into fine values (1, 'x')`,
    ]);
    const service = await startService(fresh.url);
    try {
      for (const parameters of [{}, { filter: 'a = 3' }]) {
        const { status, body } = await service.get(
          rowsPath('broken', { total: 'none', ...parameters }),
        );
        expect([status, body.type]).toEqual([500, 'urn:ephoros:problem:broken-table']);
      }
      // A value of the request that cannot be computed with is the request's own.
      const own = await service.get(
        rowsPath('fine', { filter: 'id ^ 999999 > 1.5 AND 10 ^ 400 > id' }),
      );
      expect(own.status).toBe(400);
    } finally {
      await service.close();
      await fresh.drop();
    }
  });
});

describe('a connection string', () => {
  it('is taken as libpq takes it', () => {
    expect(connectionOf('postgres://u@db/n?sslmode=disable')).toMatchObject({
      host: 'db',
      ssl: false,
    });
    expect(connectionOf('postgres://u@db/n?sslmode=prefer')).toMatchObject({ ssl: false });
    expect(connectionOf('postgres://u@db/n?sslmode=require')).toMatchObject({
      ssl: { rejectUnauthorized: false },
    });
    expect(connectionOf('postgres://u@db/n?sslmode=verify-full')).toMatchObject({ ssl: {} });
    expect(connectionOf('postgres:///n?host=/var/run/postgresql')).toMatchObject({
      host: '/var/run/postgresql',
      database: 'n',
    });
    expect(connectionOf('postgres://u@%2Fvar%2Frun/n')).toMatchObject({ host: '/var/run' });
    expect(() => connectionOf('host=db dbname=n')).toThrow(TypeError);
  });
});
