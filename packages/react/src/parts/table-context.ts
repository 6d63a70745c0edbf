import type { WrittenQuery } from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import type { Density, Reading, View, ViewTexts } from '@ephoros/core/view';
import { createContext, useContext, useMemo } from 'react';
import type { FullReader } from '../format/value.ts';
import { useMessages } from '../messages/use-messages.ts';
import type { QueryOptions } from '../records/request-client.ts';
import type { Drawn } from '../records/use-records.ts';
import type { ChangeView } from '../state/use-view.ts';

/** What the parts of a table share; the same object until the view or its table is another one. */
export interface TableModel {
  readonly view: View;
  readonly change: ChangeView;
  readonly table: TableDescription;
  readonly reading: Reading;
  /** How rows are read where the view does not say. */
  readonly usualReading: Reading;
  /** How much room rows take where the view does not say. */
  readonly usualDensity: Density;
  /** The columns that can be shown, and how each is called. */
  readonly columns: readonly ColumnDescription[];
  /** Names of the columns shown, in their order. */
  readonly shown: readonly string[];
  /** Names of the columns that stay in view, at either side. */
  readonly pins: { readonly start: readonly string[]; readonly end: readonly string[] };
  /** Whether further columns, of related rows, can be shown. */
  readonly addable: boolean;
  /** How wide a column is drawn, in px. */
  readonly widthOf: (name: string) => number;
  /** Makes columns, or all of them, as wide as what of them is in view. */
  readonly fit: (names?: readonly string[]) => void;
  readonly column: (name: string) => ColumnDescription | undefined;
  readonly request: QueryOptions | undefined;
  /** Which tables can be looked around in; of a client alone. */
  readonly describe: Describing | undefined;
  /** Another table, and what can be requested of it; of a client alone. */
  readonly other: ((table: string) => Promise<OtherTable>) | undefined;
  /** The condition that is joined to every query; undefined for none. */
  readonly fixed: WrittenQuery['filter'] | undefined;
  /** Which rows are meant: the condition and the search in force. */
  readonly match: WrittenQuery;
  /** Sizes of pages that are offered, the default first. */
  readonly sizes: readonly number[];
  /** What of the view could not be read or answered, and the texts that say it. */
  readonly problems: readonly Problem[];
  readonly texts: ViewTexts | undefined;
  readonly reader: FullReader;
}

/** A table that rows of this one are referred to by. */
export interface OtherTable {
  readonly table: TableDescription;
  readonly request: QueryOptions;
}

/** Reads the columns of what the rows of the table refer to. */
export type Describing = () => Promise<readonly ColumnDescription[]>;

export const ModelContext = createContext<TableModel | undefined>(undefined);
export const RecordsContext = createContext<Drawn | undefined>(undefined);

/** The table that a part belongs to. */
export function useModel(): TableModel {
  const model = useContext(ModelContext);
  if (model === undefined) throw new Error('a part of a table stands within TableParts');
  return model;
}

/** The rows of the table that a part belongs to: drawn again with each of their changes. */
export function useRowsOf(): Drawn {
  const records = useContext(RecordsContext);
  if (records === undefined) throw new Error('a part of a table stands within TableParts');
  return records;
}

/** How numbers are written: as the table does, and as its messages do where a part stands alone. */
export function useLocale(): string {
  const { language } = useMessages();
  return useContext(ModelContext)?.reader.locale ?? language;
}

/** Writes a number as the reader does. */
export function useCount(): (count: number) => string {
  const locale = useLocale();
  const numbers = useMemo(() => new Intl.NumberFormat(locale), [locale]);
  return (count) => numbers.format(count);
}
