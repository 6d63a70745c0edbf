import { checkQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import { compileRows, type Relations } from './index.ts';

const relations: Relations = (table) => ({ schema: 'public', name: table });

const locks: TableDescription = {
  ...passages,
  name: 'locks',
  columns: passages.columns.filter(({ name }) => ['id', 'note', 'speed'].includes(name)),
};
const referring: TableDescription = {
  ...passages,
  relationships: [
    { name: 'lock', kind: 'one', table: 'locks', columns: ['lock_id'], references: ['id'] },
  ],
};
const known: Readonly<Record<string, TableDescription>> = { passages: referring, locks };

function textOf(parameters: Partial<Record<QueryParameter, string>>, limit?: number): string {
  const { query } = parseParameters(parameters);
  const read = checkQuery(query, referring, { tables: (name) => known[name] });
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  const { checked } = read;
  return compileRows({ ...checked, limit: limit ?? checked.limit }, relations).text;
}

describe('columns that are looked up for the rows of a window alone', () => {
  const wanted = { columns: 'id,lock.note', sort: 'toll', limit: '10', offset: '20' };

  it('are those of related tables, joined by what the rows refer to them with', () => {
    expect(textOf(wanted)).toBe(
      'select t0."id", t1."note", t0."toll" from (' +
        'select t0."id", t0."lock_id", t0."toll" from "public"."passages" t0 order by t0."toll", t0."id" limit 11 offset $1' +
        ') t0 left join "public"."locks" t1 on t1."id" = t0."lock_id" order by t0."toll", t0."id"',
    );
  });

  it('are not those that the rows are found or sorted by', () => {
    const text = textOf({ ...wanted, sort: '-lock.note', columns: 'id,lock.note,lock.speed' });
    const [shown, window] = [text.split('(select * from (')[0], text.split(' r(c')[0]];
    expect(shown).toBe('select t0."c0", t0."c1", t1."speed" from ');
    // Rows with a note come first, in an order that an index may give.
    expect(window).toMatch(/"note" is not null order by t1\."note" desc, t0\."id" desc limit/);
    expect(window).toMatch(/"note" is null order by t0\."id" desc limit .* limit 11 offset/);
    expect(text).toMatch(/order by t0\."c1" desc nulls last, t0\."c0" desc$/);
    const found = textOf({ ...wanted, filter: "lock.note = 'x'" });
    expect(found.match(/left join/g)).toHaveLength(2);
    // Nothing is late of what is sorted by alone.
    expect(textOf({ ...wanted, sort: 'lock.note' })).not.toContain('r(c0');
    // What the rows refer with is selected once, also where they are sorted by it.
    const byKey = textOf({ ...wanted, sort: 'lock_id' });
    expect(byKey).toContain('(select t0."id", t0."lock_id" from "public"."passages" t0 order');
  });

  it('are long values that are cut; whole where a cursor needs them', () => {
    const text = textOf({ columns: 'id,note', sort: '-note', cells: '10', limit: '5' });
    expect(text).toMatch(/^select t0\."id", left\(t0\."note"::text, \$1::int4\), t0\."note" from /);
    expect(text.match(/left\(/g)).toHaveLength(1);
  });

  it('come in the order that the rows come in, before the end as well', () => {
    const text = textOf({ ...wanted, offset: '0', sort: '-toll', nulls: 'first', limit: '3' });
    expect(text).toMatch(/order by t0\."toll" desc, t0\."id" desc$/);
  });

  it('are joined before where there are very many rows, which are put in order once', () => {
    expect(textOf(wanted, 10_000)).toContain('limit 10001');
    expect(textOf(wanted, 10_000)).toContain('from (select');
    expect(textOf(wanted, 10_001)).not.toContain('from (select');
  });
});
