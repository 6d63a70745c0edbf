import type { GroupLine, Row, Value } from '@ephoros/client';
import type { ColumnDescription, ResultColumn } from '@ephoros/core/schema';
import type { ReactNode } from 'react';
import { isEndAligned, widthOf } from '../format/layout.ts';
import { formatText, formatValue, type Reader } from '../format/value.ts';
import type { Selection } from '../records/use-selection.ts';
import type { TableState } from '../state/table-state.ts';
import { Cell } from '../table/cell.tsx';
import type { TableColumn } from '../table/column.ts';
import type { Messages } from '../messages/messages.ts';
import type { ColumnDefinition } from './column-definition.ts';

/** A column as it is defined and described. */
export interface DefinedColumn {
  readonly definition: ColumnDefinition;
  readonly described: ColumnDescription;
}

/** The columns in view, the pinned ones first, in the order that the state names. */
export function inView(
  columns: readonly DefinedColumn[],
  { order, pinned, hidden }: TableState,
): readonly DefinedColumn[] {
  const placeOf = ({ described: { name } }: DefinedColumn): number => {
    const place = order.indexOf(name);
    return place === -1 ? order.length : place;
  };
  const shown = columns.filter(({ described }) => !hidden.includes(described.name));
  const ordered = [...shown].sort((one, other) => placeOf(one) - placeOf(other));
  const isPinned = ({ described }: DefinedColumn): boolean => pinned.includes(described.name);
  return [...ordered.filter(isPinned), ...ordered.filter((one) => !isPinned(one))];
}

/** How a column stands in the table. */
export function tableColumn(
  { definition, described }: DefinedColumn,
  { widths, pinned }: TableState,
  reader: Reader,
  extra: ReactNode,
): TableColumn {
  const { name, label } = described;
  const { width, minWidth, maxWidth, grows, align, render } = definition;
  const chosen = widths[name];
  // Room for the label, the mark of a sort and the button behind them.
  const own = Math.max(widthOf(described) + halfDay(described, reader), label.length * 8.5 + 54);
  return {
    name,
    label,
    sortable: described.sortable,
    width: chosen ?? width ?? own,
    ...(minWidth === undefined ? {} : { minWidth }),
    ...(maxWidth === undefined ? {} : { maxWidth }),
    grows:
      chosen === undefined && (grows ?? (width === undefined && described.type.kind === 'text')),
    align: align ?? (isEndAligned(described) ? 'end' : 'start'),
    pinned: pinned.includes(name),
    render: render ?? ((value: Value) => <Cell value={formatValue(value, described, reader)} />),
    extra,
  };
}

/** Px for what tells morning from evening, where readers do. */
function halfDay({ type }: ColumnDescription, { locale }: Reader): number {
  if (type.kind !== 'timestamp') return 0;
  const { hour12 = false } = new Intl.DateTimeFormat(locale, { hour: '2-digit' }).resolvedOptions();
  return hour12 ? 22 : 0;
}

/** The column of boxes to select rows by. */
export function selectionColumn(
  {
    has,
    toggle,
    inWindow,
    toggleWindow,
  }: Pick<Selection, 'has' | 'toggle' | 'inWindow' | 'toggleWindow'>,
  messages: Messages,
): TableColumn {
  return {
    name: '',
    label: '',
    width: 44,
    pinned: true,
    render: (_value, row: Row) => (
      <input
        type="checkbox"
        tabIndex={-1}
        aria-label={messages.selectRow}
        checked={has(row)}
        onChange={() => toggle(row)}
      />
    ),
    extra: (
      <input
        type="checkbox"
        tabIndex={-1}
        aria-label={messages.selectWindow}
        checked={inWindow === 'all'}
        ref={(box) => {
          if (box !== null) box.indeterminate = inWindow === 'some';
        }}
        onChange={toggleWindow}
      />
    ),
  };
}

/** The column that shows the outline, and one for each aggregate. */
export function groupColumns(
  levels: readonly ResultColumn[],
  aggregates: readonly ResultColumn[],
  reader: Reader,
): readonly TableColumn[] {
  const written = (count: number): string => count.toLocaleString(reader.locale);
  return [
    {
      name: ' outline',
      label: levels.map(({ label }) => label).join(', '),
      width: 280,
      outline: true,
      group: ({ value, count }: GroupLine, depth: number) => (
        <>
          {levels[depth] === undefined ? null : (
            <Cell value={formatValue(value, levels[depth], reader)} />
          )}
          <small className="eph-count">{written(count)}</small>
        </>
      ),
    },
    ...aggregates.map((aggregate): TableColumn => ({
      name: ` ${aggregate.name}`,
      label: aggregate.label,
      width: Math.max(110, aggregate.label.length * 8.5 + 24),
      align: 'end',
      group: ({ aggregates: values }: GroupLine) =>
        formatText(values[aggregate.name] ?? null, aggregate, reader),
    })),
  ];
}
