import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { codesIn, sendTo, type Answered } from '../testing/sending.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();

/** Has a service keep something. */
const keepIn = ({ url }: TestService): Promise<Answered> =>
  sendTo('POST', `${url}/api/selections`, { table: 'boats', keys: [['1']] });

describe('the records', () => {
  it('are none where the service has no place for them, and that is said', async () => {
    const bare = await startService(lowmere);
    try {
      expect(codesIn(await keepIn(bare))).toEqual(['no-records']);
      const asked = await bare.get(rowsPath('passages', { filter: "SELECTED('kept:x')" }));
      expect(asked.body.errors).toMatchObject([{ code: 'no-records', parameter: 'filter' }]);
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

  it('may be away: what needs them says so, and the rest goes on', async () => {
    const { url, drop } = await freshDatabase('records_away', []);
    const own = await startService(lowmere, '', { records: url });
    await drop();
    try {
      const asked = await keepIn(own);
      expect(asked.status).toBe(503);
      expect((await own.get(rowsPath('boats'))).status).toBe(200);
    } finally {
      await own.close();
    }
  });
});
