import { once } from 'node:events';
import { get, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import pg from 'pg';
import { until } from '../../../core/src/testing/until.ts';
import { createRouter, rule } from '../index.ts';
import { serviceOverOwn } from '../testing/own-database.ts';
import { startService, type TestService } from '../testing/service.ts';

type Parameters = Readonly<Record<string, string>>;

const many = 30_000;
let url: string;
let service: TestService;
let database: pg.Client;
let close: () => Promise<void>;

beforeAll(async () => {
  ({ url, database, service, close } = await serviceOverOwn('ephoros_export_broken', [
    `create table many as select i as id, 'row ' || i as word, i % 3 as lane, repeat('x', 200) as wide
       from generate_series(1, ${many}) i`,
    'alter table many add primary key (id)',
    'create view broken as select id, 1 / (20000 - id) as n from many',
    'analyze',
  ]));
});

afterAll(() => close());

const addressOf = (table: string, parameters: Parameters, base = service.url): string =>
  `${base}/api/tables/${table}/export?${new URLSearchParams(parameters).toString()}`;

const file = async (table: string, parameters: Parameters, base?: string): Promise<string> => {
  const response = await fetch(addressOf(table, parameters, base));
  expect(response.status).toBe(200);
  return response.text();
};

/** A reader who has begun with a file and takes no more of it. */
async function idler(parameters: Parameters, base?: string): Promise<() => void> {
  const request = get(addressOf('many', parameters, base));
  const [response] = (await once(request, 'response')) as [IncomingMessage];
  response.pause();
  response.on('error', () => undefined);
  return () => request.destroy();
}

/** Files that the database is writing. */
const writing = async (): Promise<number> => {
  const { rows } = await database.query<{ n: number }>(
    "select count(*)::int as n from pg_stat_activity where state <> 'idle' and query like 'copy %' and datname = current_database()",
  );
  return rows[0]?.n ?? 0;
};

describe('what keeps a file from being whole', () => {
  const refusal = async (table: string, parameters: Parameters): Promise<[number, unknown[]]> => {
    const response = await fetch(addressOf(table, parameters));
    const { errors = [] } = (await response.json()) as {
      errors?: { code: string; parameter?: string }[];
    };
    return [response.status, errors.map(({ code, parameter }) => `${parameter ?? ''} ${code}`)];
  };

  it('is reported before its first byte, where that is known', async () => {
    expect(await refusal('many', { format: 'pdf' })).toEqual([400, ['format not-one-of']]);
    expect(await refusal('many', {})).toEqual([400, ['format not-one-of']]);
    expect(
      await refusal('many', { format: 'csv', delimiter: ':', columns: 'nope', limit: '0' }),
    ).toEqual([
      ...[400, ['delimiter not-one-of', 'limit not-a-whole-number', 'columns unknown-column']],
    ]);
    const small = await startService(url, 'exports: { rows: 1000 }\n');
    const response = await fetch(`${small.url}/api/tables/many/export?format=csv`);
    expect(response.status).toBe(413);
    expect(await response.json()).toMatchObject({ errors: [{ code: 'export-too-long' }] });
    const some = await fetch(`${small.url}/api/tables/many/export?format=csv&limit=1000`);
    expect((await some.text()).split('\r\n')).toHaveLength(1_002);
    await small.close();
  });

  it('breaks it off: a part is never taken for the whole', async () => {
    const broken = fetch(addressOf('broken', { format: 'csv' })).then((response) =>
      response.text(),
    );
    await expect(broken).rejects.toThrow();
    // Nothing of it keeps the next one from being written.
    expect((await file('many', { format: 'csv' })).length).toBeGreaterThan(many);
  });

  it('has it cancelled in the database when the reader goes away, who is not written for meanwhile', async () => {
    const leave = await idler({ format: 'ndjson' });
    leave();
    await until(writing, (count) => count === 0);
  });

  it('never has rows or columns in it that the caller may not see', async () => {
    const router = createRouter({
      database: url,
      access: () => ({
        tables: { many: { rows: rule`lane = ${1}`, hidden: ['wide'] } },
      }),
    });
    const server = express().use(router).listen(0);
    await once(server, 'listening');
    const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const search = 'format=csv&sort=id&limit=3';
    const observed = await fetch(`${base}/tables/many/export?${search}`);
    expect(await observed.text()).toBe('id,word,lane\r\n1,row 1,1\r\n4,row 4,1\r\n7,row 7,1\r\n');
    expect(observed.headers.get('ephoros-rows')).toBe('3');
    const all = await fetch(`${base}/tables/many/export?format=ndjson&columns=id`);
    expect((await all.text()).trimEnd().split('\n')).toHaveLength(many / 3);
    const hidden = await fetch(`${base}/tables/many/export?format=csv&filter=wide IS NULL`);
    expect(hidden.status).toBe(400);
    const values = await fetch(`${base}/tables/many/values/id?counts=false&limit=2`);
    expect((await values.json()).values.map(({ value }: any) => value)).toEqual([1, 4]);
    expect((await fetch(`${base}/tables/broken/export?format=csv`)).status).toBe(404);
    server.close();
    await router.close();
  });
});

describe('errors in a body', () => {
  it.each([
    [{}, ['format not-one-of']],
    [{ format: 'pdf' }, ['format not-one-of']],
    [
      { format: 'csv', delimiter: 'dot', 'line-end': 'cr' },
      ['delimiter not-one-of', 'line-end not-one-of'],
    ],
    [{ format: 'csv', bom: 'yes' }, ['bom malformed-body']],
    [{ format: 'csv', page: 2 }, ['page unknown-parameter']],
    [{ format: 'csv', limit: '-1' }, ['limit not-a-whole-number']],
    [{ format: 'csv', filter: 'nope > 1' }, ['filter unknown-column']],
  ])('are reported as in a URL: %j', async (body, messages) => {
    const response = await fetch(addressOf('many', {}).replace('?', ''), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    const { errors } = (await response.json()) as { errors: { code: string; parameter: string }[] };
    expect([response.status, errors.map(({ code, parameter }) => `${parameter} ${code}`)]).toEqual([
      400,
      messages,
    ]);
  });
});

describe('files at the same time', () => {
  it('are as many as may be; a further one waits, and pages wait for none of them', async () => {
    const one = await startService(url, 'exports: { atOnce: 1 }\n', { waitLimit: 2_500 });
    const leave = await idler({ format: 'ndjson' }, one.url);
    await until(writing, (count) => count === 1);
    expect((await one.get('/api/tables/many/rows?limit=5')).status).toBe(200);
    const refused = await fetch(addressOf('many', { format: 'csv' }, one.url));
    expect([refused.status, await refused.json()]).toMatchObject([
      503,
      { type: 'urn:ephoros:problem:service-busy' },
    ]);
    leave();
    await until(
      () => fetch(addressOf('many', { format: 'csv', limit: '1' }, one.url)),
      ({ status }) => status === 200,
    );
    await one.close();
  });

  it('are stopped where they take too long, and never look whole', async () => {
    const hasty = await startService(url, 'exports: { seconds: 1 }\n');
    const request = get(addressOf('many', { format: 'ndjson' }, hasty.url));
    const [response] = (await once(request, 'response')) as [IncomingMessage];
    // Nothing is taken until the time is over.
    response.pause();
    await until(writing, (count) => count === 0);
    const ended = new Promise((resolve) => {
      response.once('error', () => resolve('broken'));
      response.once('end', () => resolve('whole'));
    });
    response.resume();
    expect(await ended).toBe('broken');
    await hasty.close();
  });

  it('are the same from any worker, and over a pool of an application', async () => {
    const wanted = await file('many', { format: 'csv', sort: 'id', limit: '100' });
    const pool = new pg.Pool({ connectionString: url, max: 4 });
    const router = createRouter({ database: pool });
    const server = express().use('/api', router).listen(0);
    await once(server, 'listening');
    const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    expect(await file('many', { format: 'csv', sort: 'id', limit: '100' }, base)).toBe(wanted);
    // What was set for the file is gone with its transaction.
    const { rows } = await pool.query("select current_setting('ephoros.v0', true) as v");
    expect(rows[0]?.v ?? '').toBe('');
    server.close();
    await router.close();
    await pool.end();
  });
});
