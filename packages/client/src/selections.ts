import type { SelectionAnswer } from '@ephoros/core/answer';
import { mostSelected } from '@ephoros/core/expression';
import type { QueryableRows, ChosenRows } from './chosen-rows.ts';
import { printParameters } from '@ephoros/core/query';
import { parseKey } from '@ephoros/core/schema';
import type { Transport } from './transport.ts';

/** Keys of rows as their addresses have them, such as `keyOfRow` gives. */
type Keys = readonly string[];

/**
 * Selections that the service keeps: with more keys than one question has room for, or for longer
 * than a page. Each belongs to its caller; 30 days unused, and it is gone.
 */
export interface SelectionsClient {
  /** Keeps rows of a table. */
  keep(table: string, rows: ChosenRows, signal?: AbortSignal): Promise<SelectionAnswer>;
  /** A stored selection, counted again. */
  read(id: string, signal?: AbortSignal): Promise<SelectionAnswer>;
  /** Puts rows to a stored selection, and takes rows from it. */
  change(
    id: string,
    change: { readonly add?: Keys; readonly remove?: Keys },
    signal?: AbortSignal,
  ): Promise<SelectionAnswer>;
  drop(id: string, signal?: AbortSignal): Promise<void>;
}

export function selectionsOver(transport: Transport): SelectionsClient {
  const address = (id?: string): string => transport.addressIn('selections', id);
  const send = async (
    method: string,
    to: string,
    body: object,
    signal: AbortSignal | undefined,
  ): Promise<SelectionAnswer> =>
    (await transport.send(method, to, JSON.stringify(body), signal)) as SelectionAnswer;
  return {
    keep: (table, rows, signal) => send('POST', address(), { table, ...written(rows) }, signal),
    read: async (id, signal) => (await transport.get(address(id), signal)) as SelectionAnswer,
    change: (id, { add = [], remove = [] }, signal) =>
      send('PATCH', address(id), { add: add.map(partsOf), remove: remove.map(partsOf) }, signal),
    drop: async (id, signal) => {
      await transport.send('DELETE', address(id), undefined, signal);
    },
  };
}

function written(rows: ChosenRows): object {
  if (rows.kind === 'keys') return { keys: rows.keys.map(partsOf) };
  const { filter, search, except } = rows;
  const texts = printParameters({ ...(filter && { filter }), ...(search && { search }) });
  return { ...Object.fromEntries(texts), except: except.map(partsOf) };
}

/** What is no key as an address has one is refused by the service, at its place. */
function partsOf(key: string): readonly string[] {
  return parseKey(key) ?? [key];
}

/**
 * Chosen rows as one question can name them: with more keys than it has room for, they are stored by
 * the service first.
 */
export async function queryableRows(
  { selections }: { readonly selections?: SelectionsClient },
  table: string,
  rows: ChosenRows,
  signal?: AbortSignal,
): Promise<QueryableRows> {
  const keys = rows.kind === 'keys' ? rows.keys : rows.except;
  if (keys.length <= mostSelected || selections === undefined) return rows;
  const { id } = await selections.keep(table, rows, signal);
  return { kind: 'stored', id };
}
