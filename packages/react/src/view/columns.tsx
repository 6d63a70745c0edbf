import type { Row, Value } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import type { View } from '@ephoros/core/view';
import { isEndAligned, widthOf } from '../format/layout.ts';
import { dateFormat } from '../format/formatters.ts';
import { formatValue } from '../format/value.ts';
import type { Messages } from '../messages/messages.ts';
import { ColumnMark } from '../parts/column-mark.tsx';
import type { FullReader } from '../format/value.ts';
import type { Selection } from '../records/use-selection.ts';
import { CellContent } from '../table/cell-content.tsx';
import { Cell } from '../table/cell.tsx';
import type { TableColumn } from '../table/column.ts';
import { RowBox } from '../parts/row-box.tsx';
import type { ColumnDefinition } from './column-definition.ts';

/** A column as it is defined and described. */
export interface DefinedColumn {
  readonly definition: ColumnDefinition;
  readonly described: ColumnDescription;
}

/** Names of the columns that stay in view, at either side. */
export interface Pins {
  readonly start: readonly string[];
  readonly end: readonly string[];
}

/** Where a view has its pinned columns; where it does not say, as they are defined. */
export function pinsOf(columns: readonly DefinedColumn[], { pinned, pinnedEnd }: View): Pins {
  const defined = (side: true | 'end'): readonly string[] =>
    columns.filter((one) => one.definition.pinned === side).map((one) => one.described.name);
  const end = pinnedEnd ?? defined('end');
  return { start: (pinned ?? defined(true)).filter((name) => !end.includes(name)), end };
}

/** The columns that a view shows, those pinned first, or last, in its order. */
export function inView(
  columns: readonly DefinedColumn[],
  { columns: named }: View,
  pins: Pins,
): readonly DefinedColumn[] {
  const shown =
    named === undefined
      ? columns.filter(({ definition }) => definition.hidden !== true)
      : named.flatMap(({ name }) => columns.find((one) => one.described.name === name) ?? []);
  const at = (side: boolean | 'end') => (one: DefinedColumn) => sideOf(one, pins) === side;
  return [...shown.filter(at(true)), ...shown.filter(at(false)), ...shown.filter(at('end'))];
}

function sideOf({ described: { name } }: DefinedColumn, { start, end }: Pins): boolean | 'end' {
  return end.includes(name) ? 'end' : start.includes(name);
}

/** How a column stands in the table. */
export function tableColumn(
  defined: DefinedColumn,
  { widths = {} }: View,
  pins: Pins,
  reader: FullReader,
  fitted: Readonly<Record<string, number>>,
  paint: TableColumn['paint'],
  sought: readonly string[] | undefined,
): TableColumn {
  const { definition, described } = defined;
  const { name, label, type } = described;
  const { width, minWidth, maxWidth, grows, align, render, classOfCell } = definition;
  const chosen = widths[name];
  // Room for the label, the mark of a sort and the button behind them.
  const usual = Math.max(widthOf(described) + halfDay(described, reader), label.length * 8.5 + 54);
  const long = type.kind === 'text' || type.kind === 'json';
  return {
    name,
    label,
    sortable: described.sortable,
    width: chosen ?? width ?? fitted[name] ?? usual,
    ...(minWidth === undefined ? {} : { minWidth }),
    ...(maxWidth === undefined ? {} : { maxWidth }),
    grows: chosen === undefined && (grows ?? (width === undefined && long)),
    align: align ?? (isEndAligned(described) ? 'end' : 'start'),
    pinned: sideOf(defined, pins),
    ...(paint && { paint }),
    ...(classOfCell === undefined
      ? {}
      : { classOfCell: typeof classOfCell === 'string' ? () => classOfCell : classOfCell }),
    render:
      render === undefined
        ? (value: Value) => <Cell value={formatValue(value, described, reader)} sought={sought} />
        : (value: Value, row: Row) => <CellContent>{render(value, row)}</CellContent>,
    extra: <ColumnMark name={name} />,
  };
}

/** Px for what distinguishes morning from evening, where readers do. */
function halfDay({ type }: ColumnDescription, { locale }: FullReader): number {
  if (type.kind !== 'timestamp') return 0;
  const { hour12 = false } = dateFormat(locale, { hour: '2-digit' }).resolvedOptions();
  return hour12 ? 22 : 0;
}

/** What rows are selected by. */
export interface Boxes extends Pick<
  Selection,
  'has' | 'toggle' | 'inWindow' | 'toggleWindow' | 'several'
> {
  /** Whether the box of the header selects all rows that are shown. */
  readonly headed: boolean;
}

/** What rows are opened by. */
export interface Opener extends Pick<Selection, 'keyOf'> {
  readonly open: (key: string) => void;
}

/** Px for the number of a row: of ten million, with what sets its digits apart. */
const numberRoom = 76;

/** The margin before the rows: their numbers, boxes to select them by, and what opens each. */
export function marginColumn(
  boxes: Boxes | undefined,
  opener: Opener | undefined,
  /** Writes the number of a row; undefined where rows are not numbered. */
  numbers: ((number: number) => string) | undefined,
  messages: Messages,
): TableColumn {
  return {
    name: '',
    label: '',
    width: 16 + (boxes ? 28 : 0) + (opener ? 22 : 0) + (numbers ? numberRoom : 0),
    pinned: true,
    ...(numbers && {
      number: (position) => <span className="eph-row-number">{numbers(position + 1)}</span>,
    }),
    render: (_value, row: Row) => {
      const key = opener?.keyOf(row);
      return (
        <>
          {boxes && (
            <RowBox
              label={messages.selectRow}
              checked={boxes.has(row)}
              change={() => boxes.toggle(row)}
              single={!boxes.several}
            />
          )}
          {key !== undefined && (
            <button
              type="button"
              className="eph-opener"
              tabIndex={-1}
              aria-label={messages.openRow}
              onClick={() => opener?.open(key)}
            />
          )}
        </>
      );
    },
    extra:
      boxes?.headed === true ? (
        <RowBox
          label={messages.selectWindow}
          checked={boxes.inWindow === 'all' || (boxes.inWindow === 'some' ? 'some' : false)}
          change={boxes.toggleWindow}
        />
      ) : (
        <span className="eph-unseen">{messages.margin}</span>
      ),
  };
}
