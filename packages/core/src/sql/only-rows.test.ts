import { checkQuery, type CheckedExpression, type CheckedQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import { compileCount, compileRow, compileRows, onlyRows, type Relations } from './index.ts';

const whole: Relations = (table) => ({ schema: 'public', name: table });

/** A second table, which the rows of the first refer to. */
const locks: TableDescription = {
  ...passages,
  name: 'locks',
  columns: passages.columns.filter(({ name }) => ['id', 'note', 'speed'].includes(name)),
  relationships: [
    { name: 'passages', kind: 'many', table: 'passages', columns: ['id'], references: ['lock_id'] },
  ],
  defaultSort: [],
};
const referring: TableDescription = {
  ...passages,
  relationships: [
    { name: 'lock', kind: 'one', table: 'locks', columns: ['lock_id'], references: ['id'] },
  ],
};
const tables = (name: string): TableDescription | undefined =>
  ({ passages: referring, locks })[name];

function check(
  parameters: Partial<Record<QueryParameter, string>>,
  table: TableDescription = referring,
): CheckedQuery {
  const read = checkQuery(parseParameters(parameters).query, table, { tables });
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return read.checked;
}

function rule(filter: string, table: TableDescription = referring): CheckedExpression {
  const { filter: checked } = check({ filter }, table);
  if (checked === undefined) throw new Error('no rule');
  return checked;
}

const ruled = onlyRows(
  whole,
  new Map([
    ['passages', { rows: rule("status = 'passed'") }],
    ['locks', { rows: rule("note <> 'secret'", locks) }],
  ]),
);

const ownRows = `(select t0.* from "public"."passages" t0 where t0."status" = $1)`;

describe('rows that are let through by a rule', () => {
  it('stand in place of the table, their values bound', () => {
    const { text, parameters } = compileRows(check({ columns: 'id', filter: 'toll > 1' }), ruled);
    expect(text).toContain(` from ${ownRows} t0 where t0."toll" > $2::numeric order by`);
    expect(parameters.slice(0, 2)).toEqual(['passed', '1']);
  });

  it('are counted, and found by their key, through it', () => {
    expect(compileCount(check({}), ruled).text).toBe(`select count(*) from ${ownRows} t0`);
    const query = check({ columns: 'id' });
    expect(compileRow(referring, query.columns, ['7'], ruled).text).toContain(
      `from ${ownRows} t0 where t0."id" = $2`,
    );
  });

  it('are those that a row refers to, and those that refer to it', () => {
    const { text } = compileRows(check({ columns: 'lock.note' }), ruled);
    expect(text).toContain(
      'left join (select t0.* from "public"."locks" t0 where t0."note" <> $2::text) t1 on t1."id" = t0."lock_id"',
    );
    const has = compileCount(check({ filter: 'HAS(passages)' }, locks), ruled).text;
    expect(has).toContain('exists (select 1 from (select t0.* from "public"."passages" t0');
  });

  it('are chosen by a rule that reads whole tables itself', () => {
    const byLock = onlyRows(
      whole,
      new Map([
        ['passages', { rows: rule("lock.note = 'mine'") }],
        ['locks', { rows: rule('1 = 0', locks) }],
      ]),
    );
    expect(compileCount(check({}), byLock).text).toBe(
      'select count(*) from (select t0.* from "public"."passages" t0 left join "public"."locks" t1 on t1."id" = t0."lock_id" where t1."note" = $1::text) t0',
    );
  });

  it.each([
    ['speed * 2 > 1', true],
    ['toll + 1 IS NULL', true],
    ['round(toll, 2) = 1', true],
    ['HAS(passages, speed / 3 > 1)', true],
    ["LOWER(note) = 'x' OR note LIKE '%y_'", false],
    ["CASEI(note) LIKE CASEI('%y%')", false],
    ["starts(note, 'a') AND note IN ('b', 'c') AND id BETWEEN 1 AND 2", false],
    ['note IS NULL AND NOT HAS(passages, id = 1)', false],
  ])('are fenced where a condition can fail: %s', (filter, fenced) => {
    const table = { ...locks, columns: passages.columns };
    const { text } = compileCount(check({ filter }, table), ruled);
    const statements = text.match(
      /where t0\."(?:note" <> \$\d+::text|status" = \$\d+)(?: offset 0)?\)/g,
    );
    expect(statements?.length).toBeGreaterThan(0);
    expect(statements?.every((one) => one.endsWith(' offset 0)') === fenced)).toBe(true);
  });

  it('show a column in some of the rows, and null in the others', () => {
    const types = new Map([
      ['id', 23],
      ['toll', 1700],
    ]);
    const partly = onlyRows(
      (table) => ({ schema: 'public', name: table, types }),
      new Map([['passages', { cells: new Map([['toll', rule("status = 'passed'")]]) }]]),
    );
    expect(compileCount(check({ filter: 'toll > 1' }), partly).text).toBe(
      'select count(*) from (select t0."id", case when t0."status" = $1 then t0."toll" end as "toll" from "public"."passages" t0) t0 where t0."toll" > $2::numeric',
    );
  });
});
