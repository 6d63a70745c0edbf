import pg from 'pg';
import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { codesIn, sendTo, type Answered } from '../testing/sending.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();

async function query(url: string, text: string): Promise<readonly { readonly relname: string }[]> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return (await client.query<{ relname: string }>(text)).rows;
  } finally {
    await client.end();
  }
}

/** Has a service keep something. */
const keepIn = ({ url }: TestService): Promise<Answered> =>
  sendTo('POST', `${url}/api/selections`, { table: 'boats', keys: [['1']] });

describe('the records', () => {
  it('are none where the service has no place for them, and that is stated', async () => {
    const bare = await startService(lowmere);
    try {
      expect(codesIn(await keepIn(bare))).toEqual(['no-records']);
      const wanted = await bare.get(rowsPath('passages', { filter: "SELECTED('stored:x')" }));
      expect(wanted.body.errors).toMatchObject([{ code: 'no-records', parameter: 'filter' }]);
      expect(
        (await bare.get(rowsPath('passages', { filter: "SELECTED('1')" }))).body.window.total,
      ).toBe(1);
    } finally {
      await bare.close();
    }
  });

  it('come into being once, however many begin at once', async () => {
    const { url, drop } = await freshDatabase('records_at_once', []);
    const services = await Promise.all(
      [1, 2, 3, 4].map(() => startService(lowmere, '', { records: url })),
    );
    try {
      const made = await Promise.all(services.map((one) => keepIn(one)));
      expect(made.map(({ status }) => status)).toEqual([201, 201, 201, 201]);
    } finally {
      await Promise.all(services.map((one) => one.close()));
      await drop();
    }
  });

  it('are refused where a newer program has changed them, or the role may not make them', async () => {
    const { url, drop } = await freshDatabase('records_newer', []);
    try {
      await (await startService(lowmere, '', { records: url })).close();
      await perform(url, [
        `insert into ephoros.migrations (hash, created_at) values ('of tomorrow', 9999999999999)`,
        'drop role if exists ephoros_timid',
        'create role ephoros_timid login',
      ]);
      await expect(startService(lowmere, '', { records: url })).rejects.toThrow('newer version');
      await perform(url, ['drop schema ephoros cascade']);
      const timid = new URL(url);
      timid.username = 'ephoros_timid';
      await expect(startService(lowmere, '', { records: timid.href })).rejects.toThrow(
        'GRANT CREATE',
      );
    } finally {
      await perform(url, ['drop role if exists ephoros_timid']);
      await drop();
    }
  });

  it('are as before when a migration fails half-way, and are made at the next start', async () => {
    const { url, drop } = await freshDatabase('records_half', []);
    try {
      // The last statement of the first migration that makes the name fails: all of it is rolled back.
      await perform(url, ['create schema ephoros', 'create table ephoros.attempts (other int)']);
      await expect(startService(lowmere, '', { records: url })).rejects.toThrow('attempts');
      const left = await query(
        url,
        "select relname from pg_class where relnamespace = 'ephoros'::regnamespace and relkind = 'r'",
      );
      expect(left.map(({ relname }) => relname).sort()).toEqual(['attempts']);
      await perform(url, ['drop table ephoros.attempts']);
      const own = await startService(lowmere, '', { records: url });
      try {
        expect((await keepIn(own)).status).toBe(201);
      } finally {
        await own.close();
      }
    } finally {
      await drop();
    }
  });

  it('may be away: what needs them says so, and the rest goes on', async () => {
    const { url, drop } = await freshDatabase('records_away', []);
    const own = await startService(lowmere, '', { records: url });
    await drop();
    try {
      const request = await keepIn(own);
      expect(request.status).toBe(503);
      expect((await own.get(rowsPath('boats'))).status).toBe(200);
      const { status, body } = await own.get('/ready');
      expect([status, body.parts]).toEqual([
        200,
        { database: 'there', records: 'unavailable', changes: 'not used' },
      ]);
    } finally {
      await own.close();
    }
  });

  it('may be away at the start: rows are read, and the service says what is off until they are there', async () => {
    const { url, drop } = await freshDatabase('records_later', []);
    await drop();
    const own = await startService(lowmere, '', { records: url });
    try {
      expect(own.warnings.join()).toContain('The records cannot be reached');
      expect((await own.get(rowsPath('boats'))).status).toBe(200);
      expect((await own.get('/ready')).body.parts.records).toBe('unavailable');
      expect((await keepIn(own)).status).toBe(503);
      await freshDatabase('records_later', []);
      expect((await keepIn(own)).status).toBe(201);
      expect((await own.get('/ready')).body.parts.records).toBe('there');
    } finally {
      await own.close();
      await perform(testDatabases().maintenance, ['drop database records_later with (force)']);
    }
  });
});
