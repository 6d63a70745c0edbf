import { checkQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import { plainColumn } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import { sql } from './fragment.ts';
import {
  compileJsonRows,
  compileRows,
  type JsonRows,
  type Relation,
  type Statement,
} from './index.ts';

const types = new Map(passages.columns.map(({ name }, index) => [name, 100 + index]));
const relation = (table: string): Relation => ({ schema: 'public', name: table, types });

function compiled<Made>(
  parameters: Partial<Record<QueryParameter, string>>,
  compile: (query: Parameters<typeof compileRows>[0], relations: typeof relation) => Made,
  table = passages,
): Made {
  const read = checkQuery(parseParameters(parameters).query, table);
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return compile(read.checked, relation);
}

function json(parameters: Partial<Record<QueryParameter, string>>): JsonRows | undefined {
  return compiled(parameters, compileJsonRows);
}

describe('rows that the database writes as JSON', () => {
  it('are those of the plain statement, with the columns of the sort behind them', () => {
    const wanted = { columns: 'toll,note', sort: '-passed_at', filter: 'lock_id = 1' };
    const made = json(wanted);
    const plain: Statement = compiled(wanted, compileRows);
    expect(made?.statement.text).toContain(`from (${plain.text}) r(c0, c1, c2, c3)`);
    expect(made?.statement.parameters).toEqual(plain.parameters);
    expect(made?.places.map(({ name }) => name)).toEqual(['passed_at', 'id']);
    expect(made?.statement.text).toMatch(/^select concat\(.*\), r\.c2, r\.c3 from /);
  });

  it('fail where a column is of another type than it was described with', () => {
    expect(json({ columns: 'toll', sort: 'id' })?.statement.text).toContain(
      "where case when pg_typeof(case when false then r.c0 end)::oid = 103 then true else current_setting('ephoros.table_changed') is null end",
    );
  });

  it('are left to the program where a value is cut, or of a kind that it writes itself', () => {
    expect(json({ columns: 'id', cells: '10' })).toBeUndefined();
    expect(json({ columns: 'crew' })).toBeUndefined();
    const domain = plainColumn('fee', { kind: 'numeric', domain: true });
    const table = { ...passages, columns: [...passages.columns, domain] };
    expect(compiled({ columns: 'fee' }, compileJsonRows, table)).toBeUndefined();
    // Nothing is known of the types of a column that the catalog does not name.
    const unknown = plainColumn('other', { kind: 'numeric' });
    const more = { ...passages, columns: [...passages.columns, unknown] };
    expect(compiled({ columns: 'other' }, compileJsonRows, more)).toBeUndefined();
  });

  it('have names in them as literals, whatever stands in these', () => {
    const odd = plainColumn('o\'dd\\"', { kind: 'integer', bits: 32 }, { nullable: false });
    const table = { ...passages, columns: [...passages.columns, odd] };
    types.set(odd.name, 23);
    const read = checkQuery(parseParameters({ columns: '"o\'dd\\\"\""' }).query, table);
    if ('problems' in read) throw new Error(read.problems[0]?.message);
    const { text } = compileJsonRows(read.checked, relation)?.statement ?? { text: '' };
    // As PostgreSQL reads it: a quote doubled, a backslash as one however the session is set.
    expect(text).toContain(`E'{"o''dd${'\\'.repeat(4)}${'\\'.repeat(2)}"":'`);
  });

  it('take any number of columns', () => {
    const many = Array.from({ length: 120 }, (_, index) =>
      plainColumn(`n${index}`, { kind: 'integer', bits: 32 }, { nullable: false }),
    );
    for (const { name } of many) types.set(name, 23);
    const table = { ...passages, columns: [...passages.columns, ...many] };
    const columns = many.map(({ name }) => name).join(',');
    const { text } = compiled({ columns, sort: 'id' }, compileJsonRows, table)?.statement ?? {
      text: '',
    };
    const calls = text.match(/concat\([^()]*\)/g) ?? [];
    expect(calls.length).toBeGreaterThan(2);
    for (const call of calls) {
      expect(call.split(/, (?=r\.c\d|')/).length).toBeLessThanOrEqual(100);
    }
  });
});

describe('one plan serves all values', () => {
  it.each([
    [{}, true],
    [{ sort: '-passed_at', filter: "passed_at < TIMESTAMP('2024-01-01T00:00:00Z')" }, true],
    [{ sort: 'toll', filter: 'toll BETWEEN 1 AND 2 AND toll > 0' }, true],
    // A frequent value is come across, a rare one looked up.
    [{ sort: 'toll', filter: 'toll = 1' }, false],
    [{ sort: 'id', filter: 'toll > 1' }, false],
    [{ sort: 'toll', filter: 'toll > 1 OR toll < 0' }, false],
    [{ sort: 'toll', filter: 'toll > lock_id' }, false],
    [{ search: 'heron' }, false],
    [{ offset: '5' }, false],
  ] as const)('of %j: %s', (parameters, generic) => {
    expect(compiled(parameters, compileRows).isGeneric === true).toBe(generic);
    const rows = compiled({ ...parameters, columns: 'id' }, compileJsonRows);
    expect(rows?.statement.isGeneric === true).toBe(generic);
  });

  it('but not where rows are held back', () => {
    const read = checkQuery({}, passages);
    if ('problems' in read) throw new Error('refused');
    const ruled = (table: string): Relation => ({
      ...relation(table),
      only: () => sql`(select * from passages where lock_id = 1)`,
    });
    expect(compileRows(read.checked, ruled).isGeneric).toBeUndefined();
  });
});
