import { checkAggregates, checkGrouping } from '../check/index.ts';
import { parseParameters } from '../query/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import { compileGroups, type Statement } from './index.ts';

const locks: TableDescription = { ...passages, name: 'locks', estimatedRows: 60 };
const table: TableDescription = {
  ...passages,
  relationships: [
    { name: 'lock', kind: 'one', table: 'locks', columns: ['lock_id'], references: ['id'] },
  ],
};
const tables = (): TableDescription => locks;
const locate = (name: string): { schema: string; name: string } => ({ schema: 'public', name });

function compile(parameters: Record<string, string>): Statement {
  const { query } = parseParameters(parameters);
  const read =
    query.group === undefined
      ? checkAggregates(query, table, { tables })
      : checkGrouping(query, table, { tables });
  if (!('checked' in read)) throw new Error(JSON.stringify(read.problems));
  return compileGroups(read.checked, locate);
}

describe('the statement of a level', () => {
  it('groups by both levels at once, so that the lines below are counted on the way', () => {
    const { text } = compile({ group: 'status,day', aggregate: 'sum(toll),avg(toll)' });
    expect(text).toContain('group by 1, 2) f group by k');
    expect(text).not.toContain('distinct');
  });

  it('counts distinct values where an aggregate needs the rows themselves', () => {
    const { text } = compile({ group: 'status,day', aggregate: 'median(toll)' });
    expect(text).toContain('count(distinct t0."day")');
    expect(text.match(/group by/g)).toHaveLength(1);
  });

  it('takes rows together by what they refer to before that is joined', () => {
    const { text } = compile({ group: 'lock.note,status', filter: 'toll > 5' });
    expect(text).toMatch(/from "public"\."passages" t0 where .*group by 1, 2\) t\d left join/);
    const plain = compile({ group: 'note' });
    expect(plain.text).not.toContain('join');
  });

  it('binds every value, those of the path as well', () => {
    const { text, parameters } = compile({
      group: "note,bin(toll, 77.5),month(passed_at, 'Europe/Paris')",
      path: '["secret"]',
      filter: "note <> 'hidden'",
      aggregate: 'percentile(toll, 88)',
      sort: '-percentile(toll, 88)',
    });
    for (const value of ['secret', '77.5', 'Europe/Paris', 'hidden', '0.88']) {
      expect(text).not.toContain(value);
      expect(parameters).toContain(value);
    }
  });

  it('takes shares of the whole result, also inside of a group', () => {
    const outer = compile({ group: 'status,day', aggregate: 'share(toll)' });
    expect(outer.text).toContain('over ()');
    const inner = compile({
      group: 'status,day',
      path: '["disputed"]',
      aggregate: 'share(toll)',
      filter: 'toll > 1',
    });
    expect(inner.text).toMatch(/nullif\(\(select sum\(t0\."toll"\).* where t0\."toll" > /);
  });

  it('makes one line of the whole where there is no level', () => {
    const { text } = compile({ aggregate: 'count(),sum(toll)' });
    expect(text).not.toContain('group by');
  });

  it('goes on behind a line, nulls wherever they stand', () => {
    const begin = compile({ group: 'status', sort: '-sum(toll)' });
    expect(begin.text).toContain('order by "a0" desc nulls last, "value"');
  });
});
