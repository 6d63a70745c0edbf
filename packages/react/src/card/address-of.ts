import type { WrittenQuery } from '@ephoros/client';

/** A row, or rows, that a page may have an address for. */
export type TablePlace =
  | { readonly table: string; readonly row: string }
  | { readonly table: string; readonly query: Pick<WrittenQuery, 'filter'> };

/** Where a page shows rows; undefined where it shows them nowhere. */
export type AddressOf = (place: TablePlace) => string | undefined;
