import { plainColumn } from '../schema/index.ts';
import type { CheckedColumn, CheckedSearch } from './checked.ts';

/** What an order by relevance is called, unless the table has a column of that name. */
export const relevance = 'relevance';

/** How well rows meet a search by words of a language, as a column that an order may name. */
export function relevanceColumn(search: CheckedSearch): CheckedColumn {
  const type = { kind: 'float', bits: 32 } as const;
  return {
    ...plainColumn(relevance, type, { nullable: false, filterable: false, groupable: false }),
    ...{ path: [], own: relevance, ranks: search },
  };
}
