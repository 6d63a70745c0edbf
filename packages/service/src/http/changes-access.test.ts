import express from 'express';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pg from 'pg';
import { perform } from '../../../../demo/src/testing/databases.ts';
import { createRouter, rule, type Access, type TableAccess, type TablesRouter } from '../index.ts';
import {
  editedHarbour,
  harbourConfiguration,
  mistakesIn,
  type EditedHarbour,
} from '../testing/editing.ts';
import { startService } from '../testing/service.ts';
import { parseConfiguration } from '../index.ts';

let harbour: EditedHarbour;
beforeAll(async () => {
  harbour = await editedHarbour('changes_access');
});
afterAll(() => harbour.close());

const one = (table: string, change: object) => ({ changes: [{ table, ...change }] });
const fee = (id: number, value: string, was: object = {}) => ({
  kind: 'change',
  key: [String(id)],
  was,
  values: { fee: value },
});

describe('a caller who sees and may change some of it only', () => {
  let router: TablesRouter;
  let server: Server;
  let url = '';
  let pool: pg.Pool;

  const north: Record<string, TableAccess | boolean> = {
    berths: {
      rows: rule`quay_id = ${1}`,
      hidden: ['note'],
      changes: { change: ['fee', 'quay_id'], add: true },
    },
    quays: { rows: rule`id = ${1}` },
    stays: { changes: false },
  };
  const accesses: Record<string, Access> = {
    ann: { caller: 'ann', tables: north },
    bob: { caller: 'bob', tables: 'all' },
    // Fees at the first quay, notes at the second, and states of small numbers wherever they are.
    cora: {
      caller: 'cora',
      tables: {
        berths: [
          { rows: 'quay_id = 1', hidden: ['note'], changes: { change: ['fee'] } },
          { rows: 'quay_id = 2', hidden: ['fee'], changes: { change: ['note'], remove: true } },
          { rows: 'id <= 6', columns: ['id', 'state'], changes: { change: ['state'] } },
          { rows: 'id = 12', columns: ['id', 'state'], changes: { change: ['state'] } },
        ],
      },
    },
  };

  beforeAll(async () => {
    pool = new pg.Pool({ connectionString: harbour.url, max: 4 });
    router = createRouter({
      database: harbour.url,
      records: harbour.url,
      changes: pool,
      configuration: parseConfiguration(harbourConfiguration, 'test.yaml'),
      access: (request) => accesses[request.header('Who') ?? ''],
    });
    server = createServer(express().use('/api', express.json(), router));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
  });
  afterAll(async () => {
    server.close();
    await router.close();
    await pool.end();
  });

  const post = (who: string, path: string, body: unknown) =>
    harbour.post(path, body, { Who: who }, url);
  const get = async (who: string, path: string): Promise<any> =>
    (await fetch(`${url}${path}`, { headers: { Who: who } })).json();

  it('learns what that is from the description', async () => {
    const { changes, columns } = await get('ann', '/tables/berths');
    expect(changes).toMatchObject({ add: true, change: true, remove: false });
    const written = columns
      .filter((column: any) => column.writing?.change)
      .map((column: any) => column.name);
    expect(written).toEqual(['quay_id', 'fee']);
    expect(await get('ann', '/tables/stays')).not.toHaveProperty('changes');
    const whole = await get('bob', '/tables/berths');
    expect(whole.changes.remove).toBe(true);
    expect(whole.columns.find(({ name }: any) => name === 'code').writing).toEqual({
      add: true,
      change: true,
      required: true,
      pattern: { text: '[A-Z]\\w*', message: 'A capital first.' },
    });
  });

  it('reaches no row outside of the rule, and moves none out of it', async () => {
    // Odd numbers lie at the second quay.
    const beyond = await post('ann', '/changes', one('berths', fee(3, '1.00')));
    expect(beyond.body.outcomes).toEqual([{ kind: 'conflict', columns: [], now: null }]);
    const out = { kind: 'change', key: ['4'], values: { quay_id: 2 } };
    expect(mistakesIn(await post('ann', '/changes', one('berths', out)))).toEqual([
      '0 outside-row-rule',
    ]);
    const added = { kind: 'add', values: { code: 'X', quay_id: 2 } };
    expect(mistakesIn(await post('ann', '/changes', one('berths', added)))).toEqual([
      '0 outside-row-rule',
    ]);
    const inside = await post('ann', '/changes', one('berths', fee(4, '4.50', { fee: '4.00' })));
    expect(inside.body.outcomes[0]).toMatchObject({ kind: 'done', row: { fee: '4.50' } });
    expect(inside.body.outcomes[0].row).not.toHaveProperty('note');
    const all = { kind: 'set', filter: 'id <= 4', values: { fee: '5.00' } };
    expect((await post('ann', '/changes', one('berths', all))).body.outcomes).toEqual([
      { kind: 'done', count: 2 },
    ]);
  });

  it('learns no value of hidden rows from a constraint', async () => {
    // Quay 2 is hidden from ann; a code may stand once at each quay.
    const { rows } = await get('bob', '/tables/berths/rows?filter=quay_id=2&limit=1');
    const [{ code: taken }] = rows;
    const errors = async (change: object): Promise<string[]> =>
      mistakesIn(await post('ann', '/changes?dryRun=true', one('berths', change)));
    for (const code of [taken, 'Free']) {
      const added = { kind: 'add', values: { code, quay_id: 2 } };
      expect([code, await errors(added)]).toEqual([code, ['0 outside-row-rule']]);
    }
    await perform(harbour.url, [`update berths set code = '${taken}' where id = 4`]);
    const moved = { kind: 'change', key: ['4'], values: { quay_id: 2 } };
    expect(await errors(moved)).toEqual(['0 outside-row-rule']);
    // Within her own rows the constraint answers.
    const twin = { kind: 'add', values: { code: taken, quay_id: 1 } };
    expect(await errors(twin)).toEqual(['0 quay_id value-taken']);
  });

  it('may not do what is not named, nor write what is hidden', async () => {
    const errorCount = async (table: string, change: object): Promise<string[]> =>
      mistakesIn(await post('ann', '/changes', one(table, change)));
    expect(await errorCount('berths', { kind: 'remove', key: ['4'] })).toEqual([
      '0 change-not-allowed',
    ]);
    expect(
      await errorCount('berths', { kind: 'change', key: ['4'], values: { note: 'x', code: 'Y' } }),
    ).toEqual(['0 note unknown-column', '0 code column-not-writable']);
    expect(await errorCount('stays', { kind: 'remove', key: ['1', 'Heron'] })).toEqual([
      '0 not-changeable',
    ]);
    expect(await errorCount('remarks', { kind: 'remove', key: ['1'] })).toEqual([
      '0 unknown-table',
    ]);
    expect((await post('nobody', '/changes', one('berths', fee(4, '1')))).status).toBe(401);
  });

  it('may do to a row what one of several parts lets be done to it, and no more', async () => {
    const answer = (await get('cora', '/tables/berths')).columns
      .filter((column: any) => column.writing?.change)
      .map((column: any) => column.name);
    expect(answer).toEqual(['fee', 'state', 'note']);
    const change = (id: number, values: object): object => ({
      ...{ kind: 'change', key: [String(id)], values },
    });
    const found = async (...changes: object[]): Promise<string[]> =>
      mistakesIn(
        await post('cora', '/changes', {
          changes: changes.map((own) => ({ table: 'berths', ...own })),
        }),
      );
    // Even numbers lie at the first quay, odd ones at the second.
    expect(await found(change(2, { fee: '1.00' }))).toEqual([]);
    expect(await found(change(3, { fee: '1.00' }))).toEqual(['0 change-not-allowed']);
    expect(await found(change(3, { note: 'dry' }))).toEqual([]);
    expect(await found(change(2, { note: 'dry' }))).toEqual(['0 change-not-allowed']);
    expect(await found(change(5, { state: 'taken' }), change(12, { state: 'taken' }))).toEqual([]);
    expect(await found(change(7, { state: 'taken' }))).toEqual(['0 change-not-allowed']);
    expect(await found({ kind: 'remove', key: ['8'] })).toEqual(['0 change-not-allowed']);
    expect(await found({ kind: 'remove', key: ['19'] })).toEqual([]);
    // No part lets all of this be done.
    expect(await found(change(2, { fee: '2.00' }), change(3, { note: 'wet' }))).not.toEqual([]);
  });

  it('sees of the history no column and no row that is hidden', async () => {
    await post(
      'bob',
      '/changes',
      one('berths', { kind: 'change', key: ['6'], values: { note: 'n', fee: '6.10' } }),
    );
    await post('bob', '/changes', one('berths', fee(7, '7.10')));
    const { entries } = await get('ann', '/tables/berths/history');
    expect(entries[0]).toMatchObject({
      who: 'bob',
      key: ['6'],
      columns: ['fee'],
      after: { fee: '6.10' },
    });
    expect(entries.some(({ key }: any) => key[0] === '7')).toBe(false);
    expect((await get('bob', '/tables/berths/rows/7/history')).entries).toHaveLength(1);
    expect((await get('ann', '/tables/berths/rows/7/history')).entries).toEqual([]);
  });

  it('takes back what she may change herself', async () => {
    const mine = await post('ann', '/changes', one('berths', fee(8, '8.10')));
    const theirs = await post(
      'bob',
      '/changes',
      one('berths', { kind: 'change', key: ['8'], values: { note: 'n' } }),
    );
    expect(mistakesIn(await post('ann', `/changes/${theirs.body.id}/undo`, {}))).toEqual([
      'unknown-change-set',
    ]);
    expect((await post('ann', `/changes/${mine.body.id}/undo`, {})).status).toBe(200);
  });

  it('keeps keys of requests apart from those of others', async () => {
    const set = one('berths', fee(10, '10.10'));
    const [ann, bob] = await Promise.all(
      ['ann', 'bob'].map((Who) =>
        harbour.post('/changes', set, { Who, 'Idempotency-Key': 'same' }, url),
      ),
    );
    expect(ann?.body.id).not.toBe(bob?.body.id);
  });
});

describe('a role that may write some of it', () => {
  it('is all that can be changed, and what it loses later is reported', async () => {
    await perform(harbour.url, [
      `drop role if exists harbour_clerk`,
      `create role harbour_clerk login`,
      `grant select on all tables in schema public to harbour_clerk`,
      `grant update (note, fee), insert (note) on berths to harbour_clerk`,
      `grant delete on remarks to harbour_clerk`,
    ]);
    const changes = harbour.url.replace('//ephoros@', '//harbour_clerk@');
    const service = await startService(harbour.url, harbourConfiguration, { changes });
    try {
      const { body } = await service.get('/api/tables/berths');
      // A code must be given, and may not be.
      expect(body.changes).toMatchObject({ add: false, change: true, remove: false });
      const written = body.columns
        .filter((column: any) => column.writing)
        .map((column: any) => column.name);
      expect(written).toEqual(['fee', 'note']);
      expect((await service.get('/api/tables/remarks')).body.changes).toEqual({
        add: false,
        change: false,
        remove: true,
      });
      expect((await service.get('/api/tables/quays')).body).not.toHaveProperty('changes');
      const post = () =>
        harbour.post(
          '/tables/berths/changes',
          { changes: [fee(12, '12.10')] },
          {},
          `${service.url}/api`,
        );
      expect((await post()).status).toBe(200);
      await harbour.sql(
        'revoke update on berths from harbour_clerk; revoke update (fee) on berths from harbour_clerk',
      );
      expect(mistakesIn(await post())).toEqual(['0 not-changeable']);
      // Nothing is remembered where there is no place for it.
      const headers = { 'Idempotency-Key': 'x' };
      const stored = await harbour.post(
        '/tables/remarks/changes',
        { changes: [{ kind: 'remove', key: ['1'] }] },
        headers,
        `${service.url}/api`,
      );
      expect(mistakesIn(stored)).toEqual(['no-history']);
      expect((await service.get('/api/tables/berths/history')).status).toBe(400);
      // A role that may only remove rows cannot lock them.
      const remove = (was: object) =>
        harbour.post(
          '/tables/remarks/changes',
          { changes: [{ kind: 'remove', key: ['1'], was }] },
          {},
          `${service.url}/api`,
        );
      expect((await remove({ text: 'no' })).status).toBe(409);
      expect((await remove({ text: 'yes' })).status).toBe(200);
    } finally {
      await service.close();
      await perform(harbour.url, ['drop owned by harbour_clerk', 'drop role harbour_clerk']);
    }
  });

  it('is needed: without one nothing can be changed, and that is stated', async () => {
    const service = await startService(harbour.url, harbourConfiguration);
    try {
      expect((await service.get('/api/tables/berths')).body).not.toHaveProperty('changes');
      const answer = await harbour.post(
        '/changes',
        one('berths', fee(1, '1')),
        {},
        `${service.url}/api`,
      );
      expect(mistakesIn(answer)).toEqual(['0 not-changeable']);
      expect(answer.body.errors[0].hint).toContain('--changes');
    } finally {
      await service.close();
    }
  });

  it.each([
    ['seen: { changes: { remove: true } }', /seen is a view/],
    ['loose: { changes: { remove: true } }', /loose has no key/],
    ['berths: { changes: { change: [nothing] } }', /berths publishes no column nothing/],
    ['berths: { changes: { change: [double_fee] } }', /double_fee is generated/],
    ['berths: { rules: [{ rule: "fee > ", message: x }] }', /ends too early/],
    ['berths: { columns: { code: { pattern: "(" } } }', /Invalid regular expression/],
  ])('is not asked where the configuration is wrong: %s', async (table, message) => {
    await expect(startService(harbour.url, `tables:\n  ${table}`)).rejects.toThrow(message);
  });
});
