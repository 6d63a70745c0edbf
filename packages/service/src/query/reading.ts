import {
  checkQuery,
  type CheckedQuery,
  type CheckOptions,
  type ResolvedSelections,
} from '@ephoros/core/check';
import { inParameter, nearest, problem, type Problem } from '@ephoros/core/problem';
import { parseParameters, type Query, type QueryParameter } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import type { Catalog, Published } from '../catalog/index.ts';
import { keyPlaceIn } from './key-place.ts';
import { Refused } from './refused.ts';
import type { Tally } from './tally.ts';

/** Parameters that can be read, and what is wrong with the others. */
export interface Parameters {
  readonly values: Partial<Record<QueryParameter, string>>;
  readonly problems: readonly Problem[];
  /** Whether the answer shows how it came about. */
  readonly explain?: boolean;
  /** How long a parameter may be, where that is not as in a URL. */
  readonly characters?: number;
  /** The query itself, where it was read from another spelling than the parameters. */
  readonly query?: Query;
}

/** What reading needs of who asks. */
interface Reading {
  readonly catalog: Catalog;
  readonly tally: Tally;
  /** The stored selections that the parameters may name. */
  readonly storedSelections?: ResolvedSelections | undefined;
}

/** parameters → parse → check. @throws Refused with every error of all stages */
export function readQuery(
  parameters: Parameters,
  description: TableDescription,
  context: Reading,
): { query: Query; checked: CheckedQuery } {
  const keyPlace = keyPlaceIn(parameters.values, description);
  const problems = [...parameters.problems, ...(keyPlace?.problems ?? [])];
  const plain =
    keyPlace === undefined ? parameters : { ...parameters, values: keyPlace.values, problems };
  const { query, checked } = readWith(plain, context, (wanted, options) =>
    checkQuery(wanted, description, options),
  );
  const { anchorRow } = keyPlace ?? {};
  return { query, checked: anchorRow === undefined ? checked : { ...checked, anchorRow } };
}

/** The same with another check. @throws Refused */
export function readWith<Checked>(
  { values, problems, characters, query }: Parameters,
  { catalog, tally, storedSelections }: Reading,
  check: (
    query: Query,
    options: CheckOptions,
  ) => { readonly checked: Checked } | { readonly problems: readonly Problem[] },
): { query: Query; checked: Checked } {
  const { limits, describe, unicode } = catalog;
  const requests =
    query === undefined
      ? tally.during('parse', () =>
          parseParameters(values, characters === undefined ? limits : { ...limits, characters }),
        )
      : { query, problems: [] };
  tally.asks(requests.query);
  const read = tally.during('check', () =>
    check(requests.query, {
      tables: describe,
      unicode,
      ...(storedSelections && { storedSelections }),
    }),
  );
  const found = 'problems' in read ? read.problems : [];
  const all = [...problems, ...requests.problems, ...found];
  if ('problems' in read || all.length > 0) throw new Refused(all);
  return { query: requests.query, checked: read.checked };
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
