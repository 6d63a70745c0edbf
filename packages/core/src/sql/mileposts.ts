import type { CheckedQuery } from '../check/index.ts';
import { comparable } from './cast.ts';
import { sql, type SQL } from './fragment.ts';
import { list, oneAfterTheOther, order, keysetSelects } from './keyset.ts';
import { phasesOf, type Phase } from './phases.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { fill, write, writeTemplate, type Statement, type Template } from './statement.ts';

/**
 * Two ways to set mileposts along a query's result. Both give rows of the sort's values and a
 * number: the sort values of the row with that number (counted from 1), for every number that
 * `step` divides, and at last the number of all rows, where the values mean nothing.
 */
export interface MilepostStatements {
  /** One pass over the whole result; serves always. No rows where the result is empty. */
  readonly pass: Statement;
  /**
   * From post to post, several times quicker where an index gives the order, and hopeless where
   * none does: one behind the other, each for its part of the order (see `stepsFrom`). Absent where a column
   * behind the leading one may be null, or directions differ.
   */
  readonly steps?: readonly Template[];
}

/** The mileposts of a query, wherever its window lies. Its table has a key. */
export function compileMileposts(
  query: CheckedQuery,
  step: number,
  relations: Relations,
): MilepostStatements {
  const bare: CheckedQuery = { ...query, columns: [], offset: 0, anchor: undefined };
  const pass = onePass(bare, step, relations);
  const phases = phasesOf(query);
  const even = phases?.every(({ terms }) =>
    terms.every(({ descending }) => descending === terms[0]?.descending),
  );
  if (phases === undefined || even !== true) return { pass };
  return { pass, steps: phases.map((phase) => postToPost(bare, phase, step, relations)) };
}

/** The statement from post to post for a part of the order, behind so many rows. */
export function stepsFrom(steps: Template, before: number, step: number): Statement {
  return fill(steps, { before, skip: step - 1 - (before % step) });
}

function onePass(query: CheckedQuery, step: number, relations: Relations): Statement {
  const names = sql.join(valueNames(query), sql`, `);
  const whole = oneAfterTheOther(keysetSelects(query, relations));
  const numbered = sql`select w.*, row_number() over () as n, lead(1) over () as more from (${whole}) w (${names})`;
  return write(
    sql`select ${names}, n from (${numbered}) numbered where n % ${step} = 0 or more is null`,
  );
}

function postToPost(
  query: CheckedQuery,
  phase: Phase,
  step: number,
  relations: Relations,
): Template {
  const { terms, skipped } = phase;
  const scope = new Scope(query.table.name, relations);
  const all = list(
    query.sort.map(({ column }) => column),
    scope,
  );
  const along = terms.map(({ column }) => comparable(scope.column(column), column.type));
  const tests = [...phase.tests(scope), ...matchTests(query, scope)];
  const ordered = order(terms, scope);
  const comparator = terms[0]?.descending === true ? sql`<` : sql`>`;
  const names = valueNames(query);
  const rows = (further: readonly SQL[]): SQL =>
    sql`${scope.from()}${whereAll([...further, ...tests])}`;
  const beyond = (post: string): SQL => {
    const values = terms.map(({ column }, index) =>
      comparable(sql`${sql.raw(post)}.${names[index + skipped] ?? sql``}`, column.type),
    );
    return rows([sql`(${sql.join(along, sql`, `)}) ${comparator} (${sql.join(values, sql`, `)})`]);
  };
  const [before, skip] = [sql.open('before'), sql.open('skip')];
  const first = sql`select ${all}, 1::int8${rows([])}${ordered} offset ${skip}::int8 limit 1`;
  const next = sql`select x.*, post.n + 1 from post, lateral (select ${all}${beyond('post')}${ordered} offset ${step - 1} limit 1) x`;
  const listed = sql.join(names, sql`, `);
  const missing = sql.join(
    names.map(() => sql`null`),
    sql`, `,
  );
  const number = (n: SQL): SQL => sql`${before}::int8 + ${skip}::int8 + 1 + (${n} - 1) * ${step}`;
  const last = sql`(select * from post order by n desc limit 1) last`;
  const behindLast = sql`select ${number(sql`last.n`)} + (select count(*)${beyond('last')}) from ${last}`;
  const whole = sql`coalesce((${behindLast}), ${before}::int8 + (select count(*)${rows([])}))`;
  return writeTemplate(
    sql`with recursive post (${listed}, n) as ((${first}) union all ${next}) select ${listed}, ${number(sql`n`)} from post union all select ${missing}, ${whole}`,
  );
}

/** Two columns of a sort may have the same name in their own tables. */
function valueNames({ sort }: CheckedQuery): SQL[] {
  return sort.map((_term, index) => sql.raw(`s${index}`));
}
