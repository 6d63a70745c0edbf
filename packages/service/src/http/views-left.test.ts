import pg from 'pg';
import { recordedService } from '../testing/recorded.ts';
import { sendTo, type Answered } from '../testing/sending.ts';
import { startService } from '../testing/service.ts';

describe('a view of a table that has changed', () => {
  it('has what is left, and says what is missing', async () => {
    const { service, url, records, close } = await recordedService('changed_views', [
      'create table quays (id int primary key, name text, gone int, kind text)',
      'create table berths (id int primary key, quay_id int references quays, fee numeric, gone text)',
    ]);
    const database = new pg.Client({ connectionString: url });
    const made = async (name: string, view: object): Promise<any> =>
      (await sendTo('POST', `${service.url}/api/views`, { table: 'berths', name, view })).body;
    const read = (id: string): Promise<Answered> => sendTo('GET', `${service.url}/api/views/${id}`);
    await database.connect();
    try {
      const view = {
        version: 1,
        columns: ['id', 'gone', 'quay.gone', 'fee'],
        filter: "fee > 1 AND (gone = 'a' OR fee > 2) AND quay.gone = 1 AND quay.name = 'x'",
        sort: 'gone,-fee',
        pinned: ['gone', 'id'],
        widths: { gone: 80, fee: 90 },
      };
      const grouped = {
        version: 1,
        group: 'quay.kind,gone',
        aggregate: 'count(),max(gone),sum(fee)',
        sort: '-sum(fee),gone',
        open: [['dry']],
      };
      const rows = await made('rows', view);
      const groups = await made('groups', grouped);
      expect(rows).toMatchObject({ view, left: [] });
      expect(groups).toMatchObject({ view: grouped, left: [] });
      await database.query('alter table berths drop column gone');
      await database.query('alter table quays drop column gone');
      // The catalog is read again where a question shows that it has changed.
      await service.get('/api/tables/berths/rows?columns=gone');
      await service.get('/api/tables/quays/rows?columns=gone');
      const { body } = await read(rows.id);
      expect(body.view).toEqual({
        version: 1,
        columns: ['id', 'fee'],
        filter: "fee > 1 AND quay.name = 'x'",
        sort: '-fee',
        pinned: ['id'],
        widths: { fee: 90 },
      });
      expect(body.left.map(({ parameter }: any) => parameter)).toEqual([
        'columns',
        'columns',
        'filter',
        'filter',
        'sort',
      ]);
      expect(body.left[0].message).toContain('gone');
      const { body: left } = await read(groups.id);
      expect(left.view).toEqual({
        version: 1,
        group: 'quay.kind',
        aggregate: 'count(),sum(fee)',
        sort: '-sum(fee)',
      });
      // Another name takes nothing from what was stored.
      await sendTo(
        'PATCH',
        `${service.url}/api/views/${rows.id}`,
        { name: 'renamed' },
        { headers: { 'If-Match': '*' } },
      );
      await database.query('alter table berths add column gone text');
      await database.query('alter table quays add column gone int');
      const later = await startService(url, '', { records });
      const again = await later.get(`/api/views/${rows.id}`);
      await later.close();
      expect(again.body).toMatchObject({ name: 'renamed', view, left: [] });
      await database.query('drop table berths');
      await service.get('/api/tables/berths/rows');
      expect((await read(rows.id)).status).toBe(404);
      expect((await service.get('/api/views?search=renamed')).body.views).toEqual([]);
    } finally {
      await database.end();
      await close();
    }
  });
});
