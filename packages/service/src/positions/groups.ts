import type { CheckedQuery } from '@ephoros/core/check';
import {
  compileCount,
  compilePlaces,
  keyColumns,
  siblingOf,
  type Relations,
  type Sibling,
} from '@ephoros/core/sql';
import { statementName } from '../run/index.ts';
import { indexedOrderOf, orderKey, type Positions, type Seen } from './orders.ts';
import { placeKindsOf } from './place-codec.ts';
import type { GroupPlace } from './position-index.ts';

/** Where the places of a query are among those of all its siblings; undefined where it has none. */
export function groupPlace(query: CheckedQuery, relations: Relations): GroupPlace | undefined {
  const sibling = placeKindsOf(keyColumns(query)) && siblingOf(query);
  return sibling && { key: groupsKey(sibling, relations), values: sibling.values };
}

function groupsKey({ all, by }: Sibling, relations: Relations): string {
  return `${by.length}\0${orderKey(all, statementName(compileCount(all, relations)))}`;
}

/**
 * Takes in that a query takes long which differs from others only in the values that some columns are held to: the
 * places of all of them are found at once when a second one does.
 */
export async function noteGroup(
  query: CheckedQuery,
  known: Positions,
  request: Seen,
): Promise<void> {
  const sibling = siblingOf(query);
  const kinds = placeKindsOf(keyColumns(query));
  if (sibling === undefined || kinds === undefined) return;
  const { locate: relations } = request;
  const order = await indexedOrderOf(sibling.all, known, request);
  const sort = compilePlaces(sibling.all, relations, sibling.by);
  const key = groupsKey(sibling, relations);
  await known.positions.beginGroups(
    { ...order, key, places: { kinds, sort }, grouped: true },
    sibling.values,
  );
}
