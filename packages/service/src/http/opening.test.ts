import express from 'express';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { freshDatabase, perform } from '../../../../demo/src/testing/databases.ts';
import { ConfigurationError, createRouter, parseConfiguration } from '../index.ts';
import { rowsPath, startService } from '../testing/service.ts';

let harbour: { url: string; drop: () => Promise<void> };

beforeAll(async () => {
  harbour = await freshDatabase('opening', [
    'create table quays (id int primary key, name text not null)',
    'create table berths (id int primary key, quay_id int references quays, fee numeric, state text)',
    "insert into quays values (1, 'North')",
    "insert into berths select n, 1, n, 'free' from generate_series(1, 9) n",
    'create view seen as select id from berths',
  ]);
});
afterAll(() => harbour.drop());

const opening = `
tables:
  berths:
    begin: state = 'free'
    fixed: fee > 2
    narrow: [quay.name, state]
    paint:
      - { when: "fee > 5 AND quay.name = 'North'", tone: warn, column: fee }
      - { bar: fee, to: 9 }`;

describe('what views of a table begin with', () => {
  it('is reported by its description, and changes no answer by itself', async () => {
    const service = await startService(harbour.url, opening);
    try {
      const { body } = await service.get('/api/tables/berths');
      expect(body).toMatchObject({
        begin: "state = 'free'",
        fixed: 'fee > 2',
        narrow: ['quay.name', 'state'],
        paint: [
          { when: "fee > 5 AND quay.name = 'North'", tone: 'warn', column: 'fee' },
          { bar: 'fee', to: 9 },
        ],
      });
      const rows = await service.get(rowsPath('berths', { total: 'exact' }));
      expect(rows.body.window.total).toBe(9);
    } finally {
      await service.close();
    }
  });

  it.each([
    ['begin: gone = 1', 'Unknown column gone'],
    ['fixed: fee >', 'The text ends'],
    ['narrow: [gone]', 'Unknown column gone'],
    ['paint: [{ bar: gone }]', 'Unknown column gone'],
    ['paint: [{ when: "fee = \'much\'", tone: warn }]', 'Expected a number'],
    ['paint: [{ when: "fee > 1", tone: red }]', 'paint'],
  ])('is refused at its place where it fits no table: %s', async (line, message) => {
    const started = startService(harbour.url, `tables: { berths: { ${line} } }`).catch(
      (thrown: unknown) => thrown,
    );
    const refused = await started;
    expect(refused).toBeInstanceOf(ConfigurationError);
    expect((refused as Error).message).toContain('test.yaml:1:');
    expect((refused as Error).message).toContain(message);
  });

  it('speaks of no column that the caller may not see', async () => {
    const router = createRouter({
      database: harbour.url,
      configuration: parseConfiguration(opening, 'test.yaml'),
      access: () => ({ tables: { berths: { hidden: ['fee'] } } }),
    });
    const server = createServer(express().use('/api', router));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo;
    try {
      const response = await fetch(`http://127.0.0.1:${port}/api/tables/berths`);
      const text = await response.text();
      expect(text).not.toContain('fee');
      expect(text).not.toContain('quay.name');
      expect(JSON.parse(text)).toMatchObject({ begin: "state = 'free'", narrow: ['state'] });
    } finally {
      await router.close();
      server.close();
    }
  });
});

describe('the mark of what a question reads', () => {
  it('is another one once a table that it reads was written to, and only then', async () => {
    const service = await startService(harbour.url);
    const mark = async (parameters: Record<string, string>, table = 'berths'): Promise<string> => {
      const search = new URLSearchParams(parameters).toString();
      const { status, body } = await service.get(`/api/tables/${table}/written?${search}`);
      expect([status, body.table]).toEqual([200, table]);
      return body.mark;
    };
    const changes = async (parameters: Record<string, string>, from: string): Promise<void> => {
      // The database's statistics are a little late.
      for (let tries = 0; tries < 600; tries += 1) {
        if ((await mark(parameters)) !== from) return;
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
      throw new Error('the mark stays as it is');
    };
    try {
      const own = await mark({ columns: 'id' });
      const related = await mark({ columns: 'id,quay.name' });
      expect(await mark({ columns: 'id', filter: 'fee > 1' })).toBe(own);
      await perform(harbour.url, ["update quays set name = 'North quay'"]);
      await changes({ columns: 'id,quay.name' }, related);
      expect(await mark({ columns: 'id' })).toBe(own);
      await perform(harbour.url, ['update berths set fee = fee where id = 1']);
      await changes({ columns: 'id' }, own);
      // Nobody counts what is written to a view.
      expect(await mark({}, 'seen')).toBeNull();
      const refused = await service.get('/api/tables/berths/written?filter=gone=1');
      expect(refused.status).toBe(400);
    } finally {
      await service.close();
    }
  });
});

describe('trouble on demand', () => {
  it('comes where the service was started for it, and as a request asks for itself', async () => {
    const service = await startService(harbour.url, '', { simulate: { fail: 1 } });
    try {
      const failed = await service.get(rowsPath('berths'));
      expect([failed.status, failed.body.type]).toEqual([
        503,
        expect.stringContaining('simulated-failure'),
      ]);
      const spared = await service.get(rowsPath('berths'), { 'Ephoros-Simulate': '' });
      expect(spared.status).toBe(200);
      // What cannot be read is as if nothing was stated.
      const unread = await service.get(rowsPath('berths'), { 'Ephoros-Simulate': 'slowly' });
      expect(unread.status).toBe(503);
      const slow = performance.now();
      await service.get(rowsPath('berths'), { 'Ephoros-Simulate': 'delay=300ms' });
      expect(performance.now() - slow).toBeGreaterThanOrEqual(290);
      expect((await service.get('/api/simulation')).body).toEqual({ on: true, fail: 1 });
    } finally {
      await service.close();
    }
  });

  it('is nowhere else', async () => {
    const service = await startService(harbour.url);
    try {
      const answer = await service.get(rowsPath('berths'), { 'Ephoros-Simulate': 'fail=100%' });
      expect(answer.status).toBe(200);
      expect((await service.get('/api/simulation')).body).toEqual({ on: false });
    } finally {
      await service.close();
    }
  });
});
