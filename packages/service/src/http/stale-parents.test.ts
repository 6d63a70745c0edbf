/** Rows that are found by a small table, which others write to. */
import { until } from '../../../core/src/testing/until.ts';
import { serviceOverOwn } from '../testing/own-database.ts';
import { rowsPath } from '../testing/service.ts';

const children = 60_000;

it('are never an empty page below a total that is called exact', async () => {
  const { service, database, close } = await serviceOverOwn(
    'ephoros_stale_parents',
    [
      'create table par (id int primary key, name text not null)',
      "insert into par select i, 'n' || i % 10 from generate_series(0, 999) i",
      'create table child (id int primary key, par_id int not null references par, v int not null)',
      `insert into child select i, i % 1000, (i * 7919) % 97 from generate_series(1, ${children}) i`,
      'create index on child (par_id)',
      'analyze',
    ],
    { positionIndex: { costly: 100 } },
  );
  try {
    const wanted = (offset: number): string =>
      rowsPath('child', {
        filter: "par.name = 'n3'",
        sort: 'v',
        offset: String(offset),
        limit: '10',
        total: 'exact',
        columns: 'id',
      });
    const before = await service.get(wanted(5_000));
    expect(before.body.rows).toHaveLength(10);
    await database.query("update par set name = 'n3' where id % 2 = 0");
    // Far behind the end of before, and long before the end of now.
    const after = await until(
      async () => {
        const answer = await service.get(wanted(20_000));
        const { rows, next, window } = answer.body;
        const isContradiction =
          rows.length === 0 &&
          next === null &&
          window.totalKind === 'exact' &&
          window.total > 20_000;
        expect([isContradiction, window]).toEqual([false, window]);
        return answer;
      },
      ({ body }) => body.rows.length > 0,
    );
    const { rows } = await database.query(
      `select c.id from child c join par p on p.id = par_id where p.name = 'n3'
         order by v, c.id limit 10 offset 20000`,
    );
    expect(after.body.rows).toEqual(rows);
  } finally {
    await close();
  }
});
