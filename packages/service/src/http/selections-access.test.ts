import type { Request } from 'express';
import express from 'express';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { createRouter, rule, type TablesRouter } from '../index.ts';
import { codesIn, sendTo, type Answered, type Sending } from '../testing/sending.ts';
import { rowsPath } from '../testing/service.ts';

const { lowmere } = testDatabases();

describe('selections of several callers', () => {
  let router: TablesRouter;
  let server: Server;
  let url: string;
  let records: { url: string; drop: () => Promise<void> };
  const database = new pg.Client({ connectionString: lowmere });
  const send = (method: string, path: string, body: unknown, more: Sending): Promise<Answered> =>
    sendTo(method, `${url}/api/selections${path}`, body, more);
  const as = (caller: string): { headers: Record<string, string> } => ({
    headers: { 'X-Caller': caller },
  });

  beforeAll(async () => {
    await database.connect();
    records = await freshDatabase('records_of_callers', []);
    router = createRouter({
      database: lowmere,
      records: records.url,
      access: ({ headers }: Request) => {
        const caller = String(headers['x-caller']);
        const rows = caller === 'lock 1' ? rule`lock_id = ${1}` : undefined;
        return {
          ...(caller === 'nobody' ? {} : { caller }),
          tables: { passages: rows === undefined ? true : { rows } },
        };
      },
    });
    server = createServer(express().use('/api', router));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });

  afterAll(async () => {
    server.closeAllConnections();
    server.close();
    await router.close();
    await database.end();
    await records.drop();
  });

  it('are as many as one caller may have: those used longest ago go, and none of others', async () => {
    const make = async (caller: string): Promise<string> =>
      (await send('POST', '', { table: 'passages', keys: [['1']] }, as(caller))).body.id as string;
    const status = async (id: string, caller: string): Promise<number> =>
      (await send('GET', `/${id}`, undefined, as(caller))).status;
    const theirs = await make('modest');
    const first = await make('greedy');
    for (let count = 0; count < 200; count += 20) {
      await Promise.all(Array.from({ length: 20 }, () => make('greedy')));
    }
    const last = await make('greedy');
    expect([await status(first, 'greedy'), await status(last, 'greedy')]).toEqual([404, 200]);
    expect(await status(theirs, 'modest')).toBe(200);
  });

  it('are there for their own caller alone, within the rows that that one may see', async () => {
    const made = await send(
      'POST',
      '',
      { table: 'passages', keys: Array.from({ length: 200 }, (_, index) => [String(index + 1)]) },
      as('lock 1'),
    );
    const { count, missing } = made.body;
    const { rows } = await database.query<{ n: number }>(
      'select count(*)::int as n from passages where lock_id = 1 and id <= 200',
    );
    expect(count).toBeGreaterThan(0);
    expect(count + missing).toBe(200);
    expect(count).toBe(rows[0]?.n);
    expect((await send('GET', `/${made.body.id}`, undefined, as('lock 1'))).status).toBe(200);
    for (const [method, body] of [
      ['GET', undefined],
      ['PATCH', { add: [['1']] }],
      ['DELETE', undefined],
    ] as const) {
      expect(codesIn(await send(method, `/${made.body.id}`, body, as('another')))).toEqual([
        'id unknown-selection',
      ]);
    }
    const path = `${url}${rowsPath('passages', { filter: `SELECTED('stored:${made.body.id}')` })}`;
    expect((await fetch(path, { headers: { 'X-Caller': 'another' } })).status).toBe(404);
    expect((await fetch(path, { headers: { 'X-Caller': 'lock 1' } })).status).toBe(200);
    // Of tables that a caller does not see there are none.
    expect(
      codesIn(await send('POST', '', { table: 'boats', keys: [['1']] }, as('lock 1'))),
    ).toEqual(['table unknown-table']);
  });

  it('are refused to callers whom the rules do not name', async () => {
    expect(
      codesIn(await send('POST', '', { table: 'passages', keys: [['1']] }, as('nobody'))),
    ).toEqual(['no-caller']);
  });
});
