import { randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { createRouter, type TablesRouter } from '../index.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();
/** More than all buffers between here and there hold. */
const many = 200_000;

let service: TestService;
let drop: () => Promise<void>;
beforeAll(async () => {
  const fresh = await freshDatabase('ephoros_file_progress', [
    'create table loads (id int primary key, kind text, text text)',
    `insert into loads select n, 'k' || n % 3, repeat('x', 300) from generate_series(1, ${many}) n`,
    'analyze loads',
  ]);
  ({ drop } = fresh);
  service = await startService(fresh.url, 'exports: { atOnce: 1 }');
});
afterAll(async () => {
  await service.close();
  await drop();
});

const progress = async (ticket: string): Promise<any> =>
  (await service.get(`/api/exports/${ticket}`)).body;
const file = (ticket: string, more = '', signal?: AbortSignal): Promise<Response> =>
  fetch(`${service.url}/api/tables/loads/export?format=ndjson&ticket=${ticket}${more}`, {
    ...(signal && { signal }),
  });

describe('how far a file is', () => {
  it('is reported while it is written, and when it is whole', async () => {
    const ticket = randomUUID();
    const response = await file(ticket);
    // Read slowly, so that it waits for its reader.
    const reader = response.body?.getReader();
    await reader?.read();
    const first = await until(
      () => progress(ticket),
      ({ rows }) => rows > 0,
    );
    expect(first).toMatchObject({ state: 'writing', of: many, about: null });
    expect(first.rows).toBeLessThan(many);
    while ((await reader?.read())?.done === false);
    const done = await until(
      () => progress(ticket),
      ({ state }) => state === 'done',
    );
    expect(done).toEqual({ state: 'done', rows: many, of: many, about: null });
  });

  it('is reported of one that waits behind others, and of one that was broken off', async () => {
    const [held, waiting] = [randomUUID(), randomUUID()];
    const gone = new AbortController();
    await file(held, '', gone.signal);
    const second = file(waiting, '&limit=5');
    await until(
      () => progress(waiting),
      ({ state }) => state === 'waiting',
    );
    gone.abort();
    await until(
      () => progress(held),
      ({ state }) => state === 'broken',
    );
    expect((await (await second).text()).trim().split('\n')).toHaveLength(5);
    await until(
      () => progress(waiting),
      ({ state }) => state === 'done',
    );
    expect(await progress(waiting)).toMatchObject({ rows: 5, of: 5 });
  });

  it('is reported of groups without a number to come', async () => {
    const ticket = randomUUID();
    await (await file(ticket, '&group=kind')).text();
    expect(await progress(ticket)).toMatchObject({ state: 'done', of: null });
  });

  it.each(['short', 'x'.repeat(65), 'with blanks here', 'ünïcödes'])(
    'is not kept under %j',
    async (ticket) => {
      const response = await file(encodeURIComponent(ticket));
      const { errors } = (await response.json()) as { errors: any[] };
      expect([response.status, errors[0].parameter, errors[0].code]).toEqual([
        400,
        'ticket',
        'invalid-value',
      ]);
      const unknown = await service.get(`/api/exports/${encodeURIComponent(ticket)}`);
      expect([unknown.status, unknown.body.detail]).toEqual([
        404,
        expect.stringContaining('/exports/'),
      ]);
    },
  );
});

describe('the file of somebody else', () => {
  let router: TablesRouter;
  let server: Server;
  afterAll(async () => {
    server.close();
    await router.close();
  });

  it('is not reported where there is none', async () => {
    router = createRouter({
      database: lowmere,
      access: (request) => ({ caller: request.header('Who') ?? '', tables: 'all' }),
    });
    server = createServer(express().use('/api', router));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
    const as = (who: string, path: string): Promise<Response> =>
      fetch(url + path, { headers: { Who: who } });
    const ticket = randomUUID();
    await (await as('ann', `/tables/boats/export?format=csv&ticket=${ticket}`)).text();
    expect((await as('ann', `/exports/${ticket}`)).status).toBe(200);
    expect((await as('bob', `/exports/${ticket}`)).status).toBe(404);
  });
});
