import { checkQuery, type CheckedQuery, type CheckOptions } from '@ephoros/core/check';
import { inParameter, nearest, problem, type Problem } from '@ephoros/core/problem';
import { parseParameters, type Query, type QueryParameter } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import type { Catalog, Published } from '../catalog/index.ts';
import type { Database, Remembered } from '../run/index.ts';
import type { Surveyor } from '../survey/index.ts';
import { Refused } from './refused.ts';
import type { Timings } from './timings.ts';

/** What is asked: a table of a catalog, in a database. */
export interface Asked {
  readonly catalog: Catalog;
  readonly description: TableDescription;
  readonly database: Database;
  readonly surveyor: Surveyor;
  /** Runs what reads much to tell little. */
  readonly remembered: Remembered;
  /** How long an answer waits for an exact total, in ms. */
  readonly countingTime: number;
}

/** Parameters that can be read, and what is wrong with the others. */
export interface Parameters {
  readonly values: Partial<Record<QueryParameter, string>>;
  readonly problems: readonly Problem[];
  /** Whether the answer tells how it came about. */
  readonly explain?: boolean;
  /** How long a parameter may be, where that is not as in a URL. */
  readonly characters?: number;
}

/** parameters → parse → check. @throws Refused with every mistake of all stages */
export function readQuery(
  parameters: Parameters,
  description: TableDescription,
  catalog: Catalog,
  timings: Timings,
): { query: Query; checked: CheckedQuery } {
  return readWith(parameters, catalog, timings, (query) =>
    checkQuery(query, description, checkedAgainst(catalog)),
  );
}

/** What a question is checked against. */
export function checkedAgainst({ describe, unicode }: Catalog): CheckOptions {
  return { tables: describe, unicode };
}

/** The same with another check. @throws Refused */
export function readWith<Checked>(
  { values, problems, characters }: Parameters,
  catalog: Catalog,
  timings: Timings,
  check: (
    query: Query,
  ) => { readonly checked: Checked } | { readonly problems: readonly Problem[] },
): { query: Query; checked: Checked } {
  const asked = timings.during('parse', () =>
    parseParameters(
      values,
      characters === undefined ? catalog.limits : { ...catalog.limits, characters },
    ),
  );
  const read = timings.during('check', () => check(asked.query));
  const found = 'problems' in read ? read.problems : [];
  const all = [...problems, ...asked.problems, ...found];
  if ('problems' in read || all.length > 0) throw new Refused(all);
  return { query: asked.query, checked: read.checked };
}

/** A whole number from a parameter of its own; a problem where it is none. */
export function readCount(
  name: string,
  text: string | undefined,
  { least = 1, most }: { least?: number; most: number },
): { count: number | undefined; problems: readonly Problem[] } {
  if (text === undefined) return { count: undefined, problems: [] };
  const count = /^\d{1,9}$/.test(text) ? Number(text) : NaN;
  if (count >= least && count <= most) return { count, problems: [] };
  const wrong = problem('not-a-whole-number', { least, most }, { start: 0, end: text.length });
  return { count: undefined, problems: inParameter(name, [wrong]) };
}

/** A published table by its name. @throws Refused */
export function findTable({ tables }: Catalog, name: string): Published {
  const found = tables.get(name);
  if (found !== undefined) return found;
  const facts = { name, near: nearest(name, tables.keys()) };
  throw new Refused(inParameter('table', [problem('unknown-table', facts)]));
}
