import pg from 'pg';
import { editedHarbour, harbourConfiguration, mistakesIn } from '../testing/editing.ts';
import { until } from '../../../core/src/testing/until.ts';
import { sendTo } from '../testing/sending.ts';
import { startService } from '../testing/service.ts';

const berths = '/tables/berths/changes';
const noted = (id: number, note: string): object => ({
  changes: [{ kind: 'change', key: [String(id)], values: { note } }],
});

/** Connections that can be had, or not. */
class FlakyPool extends pg.Pool {
  broken = false;
  override connect(...given: any[]): any {
    if (!this.broken) return super.connect(...(given as []));
    const failed = new Error('Connection terminated unexpectedly');
    const [callback] = given;
    return typeof callback === 'function' ? callback(failed) : Promise.reject(failed);
  }
}

describe('grants that cannot be read', () => {
  it('are those that were read last; before any were read writing is not available', async () => {
    const harbour = await editedHarbour('grants_unread');
    const pool = new FlakyPool({ connectionString: harbour.url, max: 4 });
    const service = await startService(harbour.url, harbourConfiguration, {
      records: harbour.url,
      changes: pool,
    });
    const save = (note: string) => harbour.post(berths, noted(1, note), {}, `${service.url}/api`);
    try {
      expect((await save('first')).status).toBe(200);
      pool.broken = true;
      // A table that is new is looked for, and the grants are read with it.
      await harbour.sql('create table public.fresh (id int primary key)');
      await until(
        () => service.get('/api/tables/fresh/rows'),
        ({ status }) => status === 200,
      );
      pool.broken = false;
      const after = await save('second');
      expect([after.status, ...mistakesIn(after)]).toEqual([200]);
    } finally {
      await service.close();
    }
    pool.broken = true;
    const late = await startService(harbour.url, harbourConfiguration, {
      records: harbour.url,
      changes: pool,
    });
    const send = () => harbour.post(berths, noted(2, 'late'), {}, `${late.url}/api`);
    try {
      expect((await late.get('/api/tables/berths/rows?limit=1')).status).toBe(200);
      expect((await send()).status).toBe(503);
      pool.broken = false;
      const answer = await send();
      expect([answer.status, ...mistakesIn(answer)]).toEqual([200]);
    } finally {
      await late.close();
      await pool.end();
      await harbour.close();
    }
  });
});

describe('a set that was saved', () => {
  it('is answered the same when it is sent again under a stricter rule', async () => {
    const harbour = await editedHarbour('saved_again');
    const stricter = await startService(
      harbour.url,
      harbourConfiguration.replace(
        'rules:',
        `rules:\n      - { rule: "note <> 'loose'", message: "Notes are strict." }`,
      ),
      { records: harbour.url, changes: harbour.url },
    );
    try {
      const headers = { 'Idempotency-Key': 'before the rule' };
      const first = await harbour.post(berths, noted(1, 'loose'), headers);
      expect(first.status).toBe(200);
      const at = `${stricter.url}/api`;
      const again = await harbour.post(berths, noted(1, 'loose'), headers, at);
      expect([again.status, again.body]).toEqual([200, first.body]);
      expect(mistakesIn(await harbour.post(berths, noted(2, 'loose'), {}, at))).toEqual([
        '0 note breaks-rule',
      ]);
      const undo = `${at}/changes/${first.body.id}/undo`;
      const undone = await sendTo('POST', undo, {}, { headers: { 'Idempotency-Key': 'u' } });
      const replayed = await sendTo('POST', undo, {}, { headers: { 'Idempotency-Key': 'u' } });
      expect([undone.status, replayed.body]).toEqual([200, undone.body]);
    } finally {
      await stricter.close();
      await harbour.close();
    }
  });
});

describe('a request that is withdrawn', () => {
  it('is never saved, and gives the answer where it was saved before', async () => {
    const harbour = await editedHarbour('withdrawn');
    const withdraw = (key: string) =>
      sendTo('DELETE', `${harbour.service.url}/api/changes`, undefined, {
        headers: { 'Idempotency-Key': key },
      });
    try {
      const saved = await harbour.post(berths, noted(1, 'saved'), { 'Idempotency-Key': 'saved' });
      expect((await withdraw('saved')).body).toEqual({ saved: saved.body });
      expect((await withdraw('on its way')).body).toEqual({ saved: null });
      expect((await withdraw('on its way')).body).toEqual({ saved: null });
      const late = await harbour.post(berths, noted(2, 'late'), {
        'Idempotency-Key': 'on its way',
      });
      expect(mistakesIn(late)).toEqual(['withdrawn-key']);
      const { body } = await harbour.service.get('/api/tables/berths/rows/2');
      expect(body.row.note).toBe('note 2');
      expect((await withdraw('"')).status).toBe(200);
      expect((await withdraw('')).status).toBe(400);
    } finally {
      await harbour.close();
    }
  });
});
