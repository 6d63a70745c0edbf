import type { Value } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import { Cell, formatValue, isEndAligned, widthOf, type TableColumn } from '@ephoros/react';
import type { ReactNode } from 'react';
import { reader } from '../service.ts';

/** Room for an aggregate and the word before it, in px. */
const aggregateWidth = 150;

/** What stands under a column beside its values. */
interface Underneath {
  readonly foot?: (() => ReactNode) | undefined;
  /** How many aggregates stand in one cell. */
  readonly aggregates?: number;
}

/** How a described column is shown; `extra` stands in its header. */
export function tableColumn(
  column: ColumnDescription,
  extra: ReactNode,
  { foot, aggregates = 0 }: Underneath = {},
): TableColumn {
  const { name, label, sortable, type } = column;
  return {
    name,
    label,
    sortable,
    width: Math.max(widthOf(column), label.length * 8.5 + 54, aggregates * aggregateWidth),
    grows: type.kind === 'text' || type.kind === 'json',
    align: isEndAligned(column) ? 'end' : 'start',
    render: (value: Value) => <Cell value={formatValue(value, column, reader)} />,
    extra,
    ...(foot === undefined ? {} : { foot }),
  };
}
