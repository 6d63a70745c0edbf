import { checkQuery, type CheckedQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import { passages } from '../testing/passages.ts';
import { compileCopy, type CopyForm, type CopyStatement } from './index.ts';

const relations = (name: string): { schema: string; name: string } => ({ schema: 'public', name });

function check(parameters: Partial<Record<QueryParameter, string>>): CheckedQuery {
  const read = checkQuery(parseParameters(parameters).query, passages);
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return read.checked;
}

const csv: CopyForm = { as: 'csv', delimiter: ';', missing: '\\N', formulas: false };

function copy(
  parameters: Partial<Record<QueryParameter, string>>,
  form: CopyForm = csv,
  limit?: number,
): CopyStatement {
  const made = compileCopy(check(parameters), limit, form, relations);
  if (made === undefined) throw new Error('no statement');
  return made;
}

describe('rows that are copied out', () => {
  it('come of a statement whose values are settings, whatever stands in them', () => {
    const { text, settings } = copy({
      columns: 'id',
      filter: `note = '''); drop table passages; --' AND lock_id IN (1, 2) AND note LIKE '%\\_x%'`,
      offset: '20',
    });
    expect(text).toMatch(
      /^copy \(select c0 from \(.*\) to stdout \(format csv, delimiter ';', null {2}E'\\\\N'\)$/s,
    );
    expect(text).not.toMatch(/drop|\$\d/);
    const values = settings.map(([, value]) => value);
    expect(values).toContain(`'); drop table passages; --`);
    expect(values).toContain('20');
    for (const [name] of settings) expect(text).toContain(`current_setting('${name}')`);
    expect(new Set(settings.map(([name]) => name)).size).toBe(settings.length);
  });

  it('have lists in one setting, each member as it is', () => {
    const { settings } = copy({ filter: String.raw`note IN ('a,b', '"q"', 'back\slash', '{}')` });
    expect(settings.map(([, value]) => value)).toEqual([
      String.raw`{"a,b","\"q\"","back\\slash","{}"}`,
    ]);
  });

  it('are as many as are wanted, and else all of them', () => {
    expect(copy({ limit: '5' }, csv, 7).text).toContain('limit 7');
    expect(copy({ limit: '5' }).text).not.toContain('limit 5');
  });

  it('are made harmless where they are texts, and in CSV alone', () => {
    const columns = 'id,note,lock_id';
    const { text } = copy({ columns });
    expect(text.match(/ascii\(c\d\)/g)).toEqual(['ascii(c1)']);
    expect(copy({ columns }, { ...csv, formulas: true }).text).not.toContain('ascii');
    expect(copy({ columns }, { as: 'text' }).text).toContain('select c0, c1, c2 from');
  });

  it('are no JSON where the types of their columns are not known', () => {
    expect(
      compileCopy(check({ columns: 'id' }), undefined, { as: 'json' }, relations),
    ).toBeUndefined();
  });
});
