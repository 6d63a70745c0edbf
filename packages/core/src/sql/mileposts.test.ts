import { checkQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import { passages } from '../testing/passages.ts';
import {
  compileMileposts,
  compilePlan,
  compileWritten,
  readPlan,
  stepsFrom,
  type MilepostStatements,
} from './index.ts';

function compile(parameters: Partial<Record<QueryParameter, string>>): MilepostStatements {
  const read = checkQuery(parseParameters(parameters).query, passages);
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return compileMileposts(read.checked, 1000, (name) => ({ schema: 'public', name }));
}

describe('SQL for mileposts', () => {
  it('goes over the whole result, wherever the window lies', () => {
    const { pass } = compile({ sort: 'id', filter: 'lock_id = 7', offset: '50', limit: '5' });
    expect(pass.text).toBe(
      'select s0, n from (select w.*, row_number() over () as n, lead(1) over () as more' +
        ' from (select t0."id" from "public"."passages" t0 where t0."lock_id" = $1::int4 order by t0."id") w (s0))' +
        ' numbered where n % $2 = 0 or more is null',
    );
    expect(pass.parameters).toEqual(['7', 1000]);
  });

  it('goes from post to post where the order has one direction and no nulls', () => {
    const { steps = [] } = compile({ sort: '-passed_at', filter: 'lock_id = 777' });
    expect(steps).toHaveLength(1);
    const { text, parameters } = stepsFrom(steps[0]!, 0, 1000);
    expect(text).toContain('(t0."passed_at", t0."id") < (post.s0, post.s1)');
    expect(text).not.toContain('777');
    expect(parameters.filter((value) => value === '777')).toHaveLength(4);
    expect(parameters).toContain(999);
    for (const sort of ['-passed_at,id', 'id,note']) {
      expect([sort, compile({ sort }).steps]).toEqual([sort, undefined]);
    }
  });

  it('goes first over the rows with a leading value, then over those without, counting on', () => {
    const { steps = [] } = compile({ sort: '-toll' });
    const [valued, missing] = steps.map((one, index) => stepsFrom(one, index * 2_300, 1000));
    expect(valued?.text).toContain('"toll" is not null');
    expect(valued?.text).toContain('(t0."toll", t0."id") < (post.s0, post.s1)');
    expect(missing?.text).toContain('"toll" is null');
    expect(missing?.text).toContain('(t0."id") < (post.s1)');
    // The next thousandth row lies 700 rows on.
    expect(missing?.parameters).toEqual(expect.arrayContaining([2_300, 699]));
  });

  it('walks values and nulls one after the other, unbounded, as a window does', () => {
    const { pass } = compile({ sort: '-toll' });
    expect(pass.text).toMatch(/is not null order by .* union all .*is null order by/);
    expect(pass.text).not.toContain('limit');
  });
});

describe('SQL about statements and tables', () => {
  it('asks for a plan, and reads its outermost step', () => {
    const statement = { text: 'select $1', parameters: ['a'] };
    expect(compilePlan(statement)).toEqual({
      text: 'explain (format json) select $1',
      parameters: ['a'],
    });
    expect(compilePlan(statement, true).text).toMatch(/^explain \(analyze, format json\) select/);
    const node = { 'Node Type': 'Result', 'Plan Rows': 1, 'Total Cost': 0.01 };
    expect(readPlan(JSON.stringify([{ Plan: node }]))).toEqual(node);
    expect([readPlan('[]'), readPlan(null)]).toEqual([undefined, undefined]);
  });

  it('binds the name of a table, whatever it is', () => {
    const { text, parameters } = compileWritten(['odd'], () => ({ schema: 'a', name: 'b"; drop' }));
    expect(parameters).toEqual([['"a"."b""; drop"']]);
    expect(text).not.toContain('drop');
  });
});
