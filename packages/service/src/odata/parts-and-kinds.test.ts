import type { AddressInfo } from 'node:net';
import { createServer } from 'node:http';
import express from 'express';
import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { createRouter, rule } from '../index.ts';
import { kinds, kindsSetUp } from '../testing/kinds.ts';
import { startService } from '../testing/service.ts';

const { lowmere } = testDatabases();

async function told(sql: string): Promise<any[]> {
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
    const ask = async (path: string): Promise<any> => (await fetch(`${root}${path}`)).text();
    try {
      const model = await ask('/$metadata');
      expect(model).not.toMatch(/toll|boats|keepers/);
      const [{ n }] = await told('select count(*) as n from passages where lock_id = 3');
      expect(await ask('/passages/$count')).toBe(String(n));
      expect(JSON.parse(await ask('/passages?$filter=toll%20gt%201')).error.code).toBe(
        'unknown-column',
      );
      const [{ id }] = await told('select id from passages where lock_id = 4 limit 1');
      expect(JSON.parse(await ask(`/passages(${id})`)).error.code).toBe('unknown-row');
      const groups = JSON.parse(
        await ask('/passages?$apply=groupby((lock_id),aggregate($count%20as%20n))'),
      );
      expect(groups.value).toEqual([{ lock_id: 3, n: Number(n) }]);
      const expanded = JSON.parse(await ask('/passages?$top=1&$select=id&$expand=*'));
      expect(Object.keys(expanded.value[0])).toEqual(['id', 'lock']);
    } finally {
      server.close();
      await router.close();
    }
  });
});
