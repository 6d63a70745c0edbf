import type { RequestLog, Row } from '@ephoros/client';
import type { FilesClient } from '@ephoros/client/files';
import {
  createContext,
  useContext,
  type KeyboardEvent,
  type MouseEvent,
  type ReactNode,
  type RefObject,
} from 'react';
import type { AddressOf } from '../card/address-of.ts';
import type { OpenedRow } from '../card/opened-row.ts';
import type { SavedViews } from '../saved-views/saved-views.ts';
import type { Instead } from '../parts/notes.tsx';
import type { TableAction } from '../parts/selection-line.tsx';
import type { RequestClient } from '../records/request-client.ts';
import type { TableHandle } from '../table/record-table-props.ts';
import type { VisibleRows } from '../table/visible-rows.ts';
import type { RangeRefusal } from '../parts/select-range.ts';
import type { Opened } from './use-opened.ts';
import type { ColumnDefinition } from './column-definition.ts';
import type { DrawnColumns } from './use-columns.ts';
import type { Paint } from '../paint/paint.ts';

/** Where in a row it was pressed. */
export interface PressedCell {
  readonly column: string;
  /** A click or a tap; Enter, where nothing else is done by it. */
  readonly event: MouseEvent | KeyboardEvent;
}

/** What the sheet of rows is drawn from, next to its records. */
export interface Sheet {
  readonly drawn: DrawnColumns;
  /** Of rows as cards: how many lines each has. */
  readonly cardLines: number | undefined;
  /** The columns, whether a narrow screen has room for them or not. */
  readonly allColumns: DrawnColumns['columns'];
  readonly paint: Paint | undefined;
  readonly printable: boolean;
  readonly visible: VisibleRows;
  readonly setVisible: (first: number, last: number) => void;
  readonly handle: RefObject<TableHandle | null>;
  readonly label: string;
  /** In px, of rows as they are usually set. */
  readonly rowHeight: number;
  readonly selectable: boolean;
  /** Whether one row at most can be selected. */
  readonly single: boolean;
  /** What can be done with the selected rows. */
  readonly actions: readonly TableAction[];
  /** Why a range of rows was not selected, and how that is reported. */
  readonly refusal: RangeRefusal;
  readonly setRefusal: (refusal: RangeRefusal) => void;
  readonly ruler: boolean;
  /** Whether there is a field to search by; undefined where that is for the table to say. */
  readonly searchable: boolean | undefined;
  readonly onActivate: ((row: Row) => void) | undefined;
  readonly onPress: ((row: Row, at: PressedCell) => void) | undefined;
  /** Whether rows are opened on a card, and what draws them there. */
  readonly card: boolean | ((opened: OpenedRow) => ReactNode);
  readonly cardPlace: 'beside' | 'under';
  readonly opened: Opened;
  readonly addressOf: AddressOf | undefined;
  /** When drafts are saved. */
  readonly saving: 'together' | 'row' | 'cell';
  /** Fields of one's own, by column. */
  readonly editors: ReadonlyMap<string, NonNullable<ColumnDefinition['editor']>>;
  /** Requests what the rows do not hold. */
  readonly client: RequestClient | undefined;
  /** Who writes rows as files; undefined where none can be taken out. */
  readonly files: FilesClient | undefined;
  /** Views that are stored under names; undefined where they are not offered. */
  readonly savedViews: SavedViews | undefined;
  /** The requests of the page, where they can be looked at. */
  readonly requestLog:
    | {
        readonly log: RequestLog;
        readonly open: boolean;
        readonly setOpen: (open: boolean) => void;
      }
    | undefined;
  readonly classOfRow: ((row: Row) => string | undefined) | undefined;
  readonly instead: Instead;
  /** Whether it is known what the table is. */
  readonly known: boolean;
}

export const SheetContext = createContext<Sheet | undefined>(undefined);

/** The sheet that a part belongs to. */
export function useSheet(): Sheet {
  const sheet = useContext(SheetContext);
  if (sheet === undefined) throw new Error('a part of a table stands within TableParts');
  return sheet;
}
