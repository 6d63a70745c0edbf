import fc from 'fast-check';
import { checkQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import { passages } from '../testing/passages.ts';
import { compileCount, compileRow, compileRows, type Relation, type Statement } from './index.ts';

const relation = (table: string): Relation => ({ schema: 'public', name: table });

function compile(parameters: Partial<Record<QueryParameter, string>>): Statement {
  const read = checkQuery(parseParameters(parameters).query, passages);
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return compileRows(read.checked, relation);
}

describe('SQL for rows', () => {
  it('binds every value and quotes every name', () => {
    const { text, parameters } = compile({
      columns: 'id,toll',
      filter: "note = 'x''; drop table passages' AND toll > 1.5",
      sort: 'id',
      limit: '10',
      offset: '20',
    });
    expect(text).toBe(
      'select t0."id", t0."toll" from "public"."passages" t0 where (t0."note" = $1::text and t0."toll" > $2::numeric) order by t0."id" limit 11 offset $3',
    );
    expect(parameters).toEqual(["x'; drop table passages", '1.5', 20]);
  });

  it('has the same text whatever the values are', () => {
    const texts = fc
      .string()
      .map((value) => value.replaceAll('\0', '').replaceAll("'", "''").replaceAll('\\', ''));
    fc.assert(
      fc.property(texts, fc.integer(), fc.integer({ min: 1 }), (value, amount, offset) => {
        const filter = `note = '${value}' OR lock_id IN (${amount}, 3)`;
        const read = parseParameters({ filter, offset: String(offset) });
        // Halves of surrogate pairs are refused before.
        fc.pre(read.problems.length === 0);
        expect(compile({ filter, offset: String(offset) }).text).toBe(
          compile({ filter: "note = 'x' OR lock_id IN (1, 2)", offset: '1' }).text,
        );
      }),
    );
  });

  it('walks an index in two phases where nulls stand at its other end', () => {
    const { text } = compile({ columns: 'id', sort: '-toll', filter: 'lock_id = 1' });
    expect(text).toBe(
      '(select t0."id", t0."toll" from "public"."passages" t0 where t0."toll" is not null and t0."lock_id" = $1::int4 order by t0."toll" desc, t0."id" desc limit 51)' +
        ' union all ' +
        '(select t0."id", t0."toll" from "public"."passages" t0 where t0."toll" is null and t0."lock_id" = $2::int4 order by t0."id" desc limit 51)' +
        ' limit 51',
    );
  });

  it.each([
    ['toll', undefined, 'order by t0."toll", t0."id" limit'],
    ['-toll', 'first', 'order by t0."toll" desc, t0."id" desc limit'],
    ['-id,toll', 'first', 'order by t0."id" desc, t0."toll" nulls first limit'],
    ['id,-toll', undefined, 'order by t0."id", t0."toll" desc nulls last limit'],
    ['-passed_at', undefined, 'order by t0."passed_at" desc, t0."id" desc limit'],
  ])('sorts by %s with nulls %s in one walk', (sort, nulls, order) => {
    const { text } = compile({ columns: 'id', sort, ...(nulls === undefined ? {} : { nulls }) });
    expect(text).toContain(order);
    expect(text).not.toContain('union');
  });

  it('puts rows without a value first in two phases, too', () => {
    const { text } = compile({ columns: 'id', sort: 'toll', nulls: 'first' });
    expect(text.indexOf('is null')).toBeLessThan(text.indexOf('is not null'));
  });

  it('binds a list as one parameter', () => {
    const { text, parameters } = compile({
      columns: 'id',
      sort: 'id',
      filter: "status IN ('passed', 'disputed') AND lock_id NOT IN (1, 2)",
    });
    expect(text).toContain('t0."status" = any($1) and not (t0."lock_id" = any($2::int4[]))');
    expect(parameters.slice(0, 2)).toEqual([
      ['passed', 'disputed'],
      ['1', '2'],
    ]);
  });

  it('counts with the filter alone, and finds one row by its key', () => {
    const read = checkQuery(parseParameters({ filter: 'clear', sort: '-toll' }).query, passages);
    if ('problems' in read) throw new Error('refused');
    expect(compileCount(read.checked, relation).text).toBe(
      'select count(*) from "public"."passages" t0 where t0."clear"',
    );
    expect(compileRow(passages, read.checked.columns.slice(0, 1), ['5'], relation)).toEqual({
      text: 'select t0."id" from "public"."passages" t0 where t0."id" = $1::int8',
      parameters: ['5'],
    });
  });
});
