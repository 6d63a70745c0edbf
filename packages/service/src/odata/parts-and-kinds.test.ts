import type { AddressInfo } from 'node:net';
import { createServer } from 'node:http';
import express from 'express';
import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { createRouter, rule } from '../index.ts';
import { kinds, kindsSetUp } from '../testing/kinds.ts';
import { startService } from '../testing/service.ts';

const { lowmere } = testDatabases();

async function answer(sql: string): Promise<any[]> {
  const database = new pg.Client({ connectionString: lowmere });
  await database.connect();
  try {
    return (await database.query(sql)).rows;
  } finally {
    await database.end();
  }
}

describe('values of every type', () => {
  it('stand in OData as its types have them, and a row is found by each of them', async () => {
    const list = kinds.map(({ name, type }) => `${name} ${type}`).join(', ');
    const { url, drop } = await freshDatabase('ephoros_kinds_odata', [
      ...kindsSetUp,
      `create table every (id int primary key, ${list})`,
    ]);
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    const most = Math.max(...kinds.map(({ values }) => values.length));
    const places = kinds.map((_kind, index) => `$${index + 2}`).join(', ');
    for (let id = 0; id < most; id += 1) {
      const values = kinds.map(({ values: own }) => own[id % own.length] ?? null);
      await client.query(`insert into every values ($1, ${places})`, [id, ...values]);
    }
    await client.query('insert into every (id) values (-1)');
    const every = await startService(url, 'odata: true');
    try {
      const { status, body } = await every.get('/odata/every?$orderby=id');
      expect(status).toBe(200);
      expect(body.value).toHaveLength(most + 1);
      const { body: model } = await every.get('/odata/$metadata?$format=json');
      for (const row of body.value) {
        for (const [name, value] of Object.entries(row)) {
          const { $Type = 'Edm.String', $Collection = false } = model.Ephoros.every[name];
          expect([name, $Collection, value === null || fits($Type, value, $Collection)]).toEqual([
            name,
            $Collection,
            true,
          ]);
        }
      }
      const json = body.value[1 + 3].jb as string;
      expect(JSON.parse(json)).toEqual({ a: [1, 2] });
    } finally {
      await every.close();
      await client.end();
      await drop();
    }
  });

  const notations: Readonly<Record<string, RegExp>> = {
    'Edm.Date': /^-?\d{4,}-\d\d-\d\d$/,
    'Edm.DateTimeOffset': /^-?\d{4,}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$/,
    'Edm.TimeOfDay': /^([01]\d|2[0-3]):\d\d:\d\d(\.\d+)?$/,
    'Edm.Guid': /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/,
    'Edm.Binary': /^[\w-]*$/,
    'Edm.String': /^/,
  };

  /** Whether a value is one of a type, as the JSON format has it. */
  function fits(type: string, value: unknown, isCollection: boolean): boolean {
    if (isCollection) {
      return Array.isArray(value) && value.every((one) => one === null || fits(type, one, false));
    }
    if (type === 'Edm.Boolean') return typeof value === 'boolean';
    const notation = notations[type];
    if (notation !== undefined) return typeof value === 'string' && notation.test(value);
    return typeof value === 'number' || ['INF', '-INF', 'NaN'].includes(String(value));
  }
});

describe('a key', () => {
  it('is what its type says, in one part or several, whatever its name is', async () => {
    const { url, drop } = await freshDatabase('ephoros_odata_keys', [
      'create table texts (name text primary key)',
      `insert into texts values ('true'), ('17'), ('it''s'), ('a/b c')`,
      'create table flags (is_on boolean primary key)',
      'insert into flags values (true), (false)',
      'create table days (day date, "at, odd" time, primary key (day, "at, odd"))',
      "insert into days values ('2024-02-29', '10:15')",
      'create table marks (id uuid primary key, day date, at time, foreign key (day, at) references days)',
      "insert into marks values ('0f8fad5b-d9cb-469f-a165-70867728950e', '2024-02-29', '10:15'), ('1f8fad5b-d9cb-469f-a165-70867728950e', null, null)",
      'create table loose (n int)',
    ]);
    const keyed = await startService(url, 'odata: true');
    const status = async (path: string): Promise<number> =>
      (await keyed.get(`/odata/${path}`)).status;
    try {
      for (const path of [
        "texts('true')",
        "texts('17')",
        "texts('it''s')",
        "texts('a%2Fb%20c')",
        'flags(true)',
        'flags(is_on=false)',
        'days(day=2024-02-29,at_x002C__x0020_odd=10:15)',
        'marks(0f8fad5b-d9cb-469f-a165-70867728950e)',
      ]) {
        expect([path, await status(path)]).toEqual([path, 200]);
      }
      const mark = 'marks(0f8fad5b-d9cb-469f-a165-70867728950e)';
      const way = (await keyed.get(`/odata/$metadata?$format=json`)).body.Ephoros.marks;
      const [name = ''] = Object.keys(way).filter((one) => way[one].$Kind === 'NavigationProperty');
      expect((await keyed.get(`/odata/${mark}/${name}`)).body.day).toBe('2024-02-29');
      expect(await status(`marks(1f8fad5b-d9cb-469f-a165-70867728950e)/${name}`)).toBe(204);
      const back = 'days(day=2024-02-29,at_x002C__x0020_odd=10:15)/marks';
      expect((await keyed.get(`/odata/${back}`)).body.value).toHaveLength(1);
      expect(await status('texts(true)')).toBe(200);
      const wrong = await keyed.get("/odata/flags('x')");
      expect([wrong.status, wrong.body.error.target]).toEqual([400, 'path']);
      expect(await status('days(2024-02-29)')).toBe(400);
      expect(await status('loose')).toBe(404);
    } finally {
      await keyed.close();
      await drop();
    }
  });
});

describe('an answer that takes long', () => {
  it('is waited for, and anyone who goes away meanwhile is no failure', async () => {
    const { url, drop } = await freshDatabase('ephoros_odata_waiting', [
      `create function slowly(n int) returns int language sql volatile cost 1000 as
         $$ select n from pg_sleep(0.0005) $$`,
      'create table heap as select n as id, n % 7 as kind from generate_series(1, 2000) n',
      'create view dawdling as select id, slowly(kind) as kind from heap',
      'analyze',
    ]);
    const deferring = await startService(url, 'odata: true\ntables: { dawdling: { key: [id] } }', {
      deferAfter: 60,
    });
    const database = new pg.Client({ connectionString: url });
    await database.connect();
    try {
      const { status, body } = await deferring.get(
        '/odata/dawdling?$apply=aggregate(kind with sum as total,$count as n)',
      );
      expect([status, body.value[0].n]).toEqual([200, 2_000]);
      const gone = new AbortController();
      const pending = fetch(`${deferring.url}/odata/dawdling/$count?$filter=kind eq 3`, {
        signal: gone.signal,
      });
      // It has been requested again by then.
      await until(
        async () =>
          database.query(`select 1 from pg_stat_activity where datname = current_database()
          and query like '%dawdling%' and state = 'active' and clock_timestamp() - query_start > '0.15 s'`),
        ({ rowCount }) => (rowCount ?? 0) > 0,
      );
      gone.abort();
      await expect(pending).rejects.toThrow();
      await until(
        () => Promise.resolve(deferring.log.join('')),
        (log) => log.includes('$count'),
      );
      expect(deferring.log.join('')).not.toContain('Something went wrong');
    } finally {
      await database.end();
      await deferring.close();
      await drop();
    }
  });
});

describe('callers who see a part', () => {
  it('see that part by OData as well, and its model names no more', async () => {
    const router = createRouter({
      database: lowmere,
      access: () => ({
        caller: 'ann',
        tables: { passages: { rows: rule`lock_id = ${3}`, hidden: ['toll'] }, locks: true },
      }),
    });
    const server = createServer(express().use('/tables', router.odata));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const root = `http://127.0.0.1:${(server.address() as AddressInfo).port}/tables`;
    const request = async (path: string): Promise<any> => (await fetch(`${root}${path}`)).text();
    try {
      const model = await request('/$metadata');
      expect(model).not.toMatch(/toll|boats|keepers/);
      const [{ n }] = await answer('select count(*) as n from passages where lock_id = 3');
      expect(await request('/passages/$count')).toBe(String(n));
      expect(JSON.parse(await request('/passages?$filter=toll%20gt%201')).error.code).toBe(
        'unknown-column',
      );
      const [{ id }] = await answer('select id from passages where lock_id = 4 limit 1');
      expect(JSON.parse(await request(`/passages(${id})`)).error.code).toBe('unknown-row');
      const groups = JSON.parse(
        await request('/passages?$apply=groupby((lock_id),aggregate($count%20as%20n))'),
      );
      expect(groups.value).toEqual([{ lock_id: 3, n: Number(n) }]);
      const expanded = JSON.parse(await request('/passages?$top=1&$select=id&$expand=*'));
      expect(Object.keys(expanded.value[0])).toEqual(['id', 'lock']);
    } finally {
      server.close();
      await router.close();
    }
  });
});
