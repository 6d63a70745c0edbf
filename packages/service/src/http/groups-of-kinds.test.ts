import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { rowsPath, startService } from '../testing/service.ts';

describe('groups of values of every kind', () => {
  it('are selected by their filters, wherever these can spell them', async () => {
    const fresh = await freshDatabase('ephoros_kinds_grouped', [
      `create table kinds (id int primary key, padded char(5), n numeric, f float8, r real,
         day date, ts timestamptz, u uuid, span interval, at time, b boolean, s varchar(9))`,
      `insert into kinds select n, (array['a', 'ab', 'a  b', null])[n % 4 + 1],
         (array[1.0, 1.00, 'NaN', 2.5, 'Infinity'])[n % 5 + 1],
         (array[0.1, 'NaN', '-Infinity', 1e300, -0.0])[n % 5 + 1]::float8, n % 3 + 0.1,
         (array['2024-02-29', 'infinity', '0044-03-15 BC', '1999-12-31'])[n % 4 + 1]::date,
         (array['1924-02-29 10:00:00.123456+00', '-infinity', '1950-07-01'])[n % 3 + 1]::timestamptz,
         ('00000000-0000-0000-0000-00000000000' || n % 3)::uuid,
         (array['1 day', '24 hours', '-2 hours', '1 mon 3 days'])[n % 4 + 1]::interval,
         (array['10:15', '23:59:59.5'])[n % 2 + 1]::time, n % 3 = 0,
         (array['it''s', '', 'x\\'])[n % 3 + 1]
         from generate_series(1, 60) n`,
    ]);
    const service = await startService(fresh.url);
    try {
      const { body: description } = await service.get('/api/tables/kinds');
      for (const { name } of description.columns) {
        const { body } = await service.get(`/api/tables/kinds/groups?group=${name}&limit=100`);
        let rows = 0;
        for (const { value, count, filter } of body.groups) {
          rows += count;
          if (filter === null) {
            expect(String(value)).toMatch(/NaN|inf|BC|^P.*-/i);
            continue;
          }
          const selected = await service.get(rowsPath('kinds', { filter, limit: '1' }));
          expect({ name, value, count: selected.body.window.total }).toEqual({
            name,
            value,
            count,
          });
        }
        expect(rows).toBe(60);
      }
      // Every value leads further down by the path, in whatever spelling it has.
      for (const { name } of description.columns.slice(1)) {
        const { body } = await service.get(`/api/tables/kinds/groups?group=${name},id`);
        for (const { count, value } of body.groups) {
          const inside = await service.get(
            `/api/tables/kinds/groups?${new URLSearchParams({
              group: `${name},id`,
              path: JSON.stringify([value]),
            }).toString()}`,
          );
          expect({ name, lines: inside.body.window?.total }).toEqual({ name, lines: count });
        }
      }
      // Histograms reach before 1970, and before Christ.
      for (const name of ['day', 'ts', 'n', 'f']) {
        const { status, body } = await service.get(`/api/tables/kinds/values/${name}?bins=4`);
        expect(status).toBe(200);
        expect(body.histogram).toHaveLength(4);
      }
      // Also a value that no filter can spell leads further down.
      const deep = await service.get('/api/tables/kinds/groups?group=n,b&path=["NaN"]');
      expect(deep.body.groups.map(({ count }: any) => count)).toEqual([8, 4]);
      expect(deep.body.groups[0].filter).toBeNull();
    } finally {
      await service.close();
      await fresh.drop();
    }
  });
});
