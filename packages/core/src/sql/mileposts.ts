import { sql, type SQL } from './fragment.ts';
import type { CheckedQuery } from '../check/index.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { write, type Statement } from './statement.ts';
import { list, oneAfterTheOther, order, keysetSelects } from './keyset.ts';

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
   * none does. No rows where the result is shorter than a step. Absent where the sort has
   * columns that may be null, or directions that differ.
   */
  readonly steps?: Statement;
}

/** The mileposts of a query, wherever its window lies. Its table has a key. */
export function compileMileposts(
  query: CheckedQuery,
  step: number,
  relations: Relations,
): MilepostStatements {
  const bare: CheckedQuery = { ...query, columns: [], offset: 0, anchor: undefined };
  const [leading] = query.sort;
  const even = query.sort.every(
    ({ column, descending }) => !column.nullable && descending === leading?.descending,
  );
  const pass = onePass(bare, step, relations);
  return even ? { pass, steps: postToPost(bare, step, relations) } : { pass };
}

function onePass(query: CheckedQuery, step: number, relations: Relations): Statement {
  const names = sql.join(valueNames(query), sql`, `);
  const whole = oneAfterTheOther(keysetSelects(query, relations));
  const numbered = sql`select w.*, row_number() over () as n, lead(1) over () as more from (${whole}) w (${names})`;
  return write(
    sql`select ${names}, n from (${numbered}) numbered where n % ${step} = 0 or more is null`,
  );
}

function postToPost(query: CheckedQuery, step: number, relations: Relations): Statement {
  const names = valueNames(query);
  const [leading] = query.sort;
  const scope = new Scope(query.table.name, relations);
  const columns = list(
    query.sort.map(({ column }) => column),
    scope,
  );
  const matching = matchTests(query, scope);
  const ordered = sql`${order(query.sort, scope)} offset ${step - 1} limit 1`;
  const comparator = leading?.descending === true ? sql`<` : sql`>`;
  const beyond = (post: string): SQL => {
    const values = names.map((name) => sql`${sql.raw(post)}.${name}`);
    const tests = [sql`(${columns}) ${comparator} (${sql.join(values, sql`, `)})`, ...matching];
    return sql`${scope.from()} where ${sql.join(tests, sql` and `)}`;
  };
  const where = whereAll(matching);
  const first = sql`select ${columns}, 1::int8${scope.from()}${where}${ordered}`;
  const next = sql`select x.*, post.n + 1 from post, lateral (select ${columns}${beyond('post')}${ordered}) x`;
  const listed = sql.join(names, sql`, `);
  const missing = sql.join(
    names.map(() => sql`null`),
    sql`, `,
  );
  const last = sql`(select * from post order by n desc limit 1) last`;
  const rest = sql`(select count(*)${beyond('last')})`;
  return write(
    sql`with recursive post (${listed}, n) as ((${first}) union all ${next}) select ${listed}, n * ${step} from post union all select ${missing}, last.n * ${step} + ${rest} from ${last}`,
  );
}

/** Two columns of a sort may have the same name in their own tables. */
function valueNames({ sort }: CheckedQuery): SQL[] {
  return sort.map((_term, index) => sql.raw(`s${index}`));
}
