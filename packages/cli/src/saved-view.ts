import { ServiceError, type Client, type ViewAnswer } from '@ephoros/client';
import {
  groupsPart,
  matchPart,
  printParameters,
  rowsPart,
  windowPart,
  type Query,
} from '@ephoros/core/query';
import { queryOf, viewOfSaved } from '@ephoros/core/view';
import { InputError } from './input-error.ts';

type Requested = Pick<Client, 'views'>;

/** The saved view of an id, or of a name: one's own goes before a shared one. @throws InputError */
export async function findView(
  { views }: Requested,
  named: string,
  table?: string,
): Promise<ViewAnswer> {
  const found = (await byId(views, named)) ?? (await byName(views, named, table));
  if (found === undefined) {
    const of = table === undefined ? '' : ` of ${table}`;
    throw new InputError(`ephoros: There is no saved view ${named}${of}. See ephoros views.`);
  }
  if (table !== undefined && found.table !== table) {
    throw new InputError(`ephoros: The view ${named} is one of ${found.table}, not of ${table}.`);
  }
  return found;
}

async function byId(views: Requested['views'], id: string): Promise<ViewAnswer | undefined> {
  if (!/^[\w-]{16}$/.test(id)) return undefined;
  try {
    return await views.read(id);
  } catch (thrown) {
    // Then it is a name.
    if (thrown instanceof ServiceError && thrown.status === 404) return undefined;
    throw thrown;
  }
}

/** @throws InputError where several have the name */
async function byName(
  views: Requested['views'],
  named: string,
  table: string | undefined,
): Promise<ViewAnswer | undefined> {
  const sought = named.trim().toLowerCase();
  const called: ViewAnswer[] = [];
  for await (const view of eachView(views, { search: named.trim(), ...(table && { table }) })) {
    if (view.name.toLowerCase() === sought) called.push(view);
  }
  const own = called.filter((view) => view.own);
  const meant = own.length > 0 ? own : called;
  if (meant.length < 2) return meant[0];
  const ids = meant.map(({ id, table: of, by }) => `${id} (${of}${by === null ? '' : `, ${by}`})`);
  throw new InputError(
    `ephoros: Several views are called ${named}. Give an id: ${ids.join(', ')}.`,
  );
}

/** All saved views that the caller sees, by name. */
export async function* eachView(
  views: Requested['views'],
  wanted: { readonly table?: string; readonly search?: string },
): AsyncGenerator<ViewAnswer> {
  let after: string | null | undefined;
  while (after !== null) {
    const read = await views.list({ ...wanted, ...(after && { after }) });
    yield* read.views;
    after = read.next;
  }
}

/** What a question can be about. */
export type QueryPart = 'rows' | 'groups' | 'match';

/** The question that a saved view asks, as parameters of the service. */
export function parametersOf(
  { view }: Pick<ViewAnswer, 'view'>,
  part: QueryPart,
): Readonly<Record<string, string>> {
  const query: Query = queryOf(viewOfSaved(view).view);
  const parts = {
    rows: () => rowsPart(query),
    groups: () => ({ ...groupsPart(query), ...windowPart(query) }),
    match: () => ({
      ...matchPart(query),
      ...(query.aggregate && { aggregate: query.aggregate }),
    }),
  };
  return Object.fromEntries(printParameters(parts[part]()));
}
