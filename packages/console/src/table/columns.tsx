import type { Value } from '@ephoros/client';
import { isNumeric, type ColumnDescription } from '@ephoros/core/schema';
import { Cell, formatValue, type TableColumn } from '@ephoros/react';
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
    align: isNumeric(type) || type.kind === 'interval' ? 'end' : 'start',
    render: (value: Value) => <Cell value={formatValue(value, column, reader)} />,
    extra,
    ...(foot === undefined ? {} : { foot }),
  };
}

/** In px, from what the type can hold; the view shares what is left. */
function widthOf({ type, format, name }: ColumnDescription): number {
  if (format?.kind === 'picture') return 84;
  switch (type.kind) {
    case 'integer':
      return type.bits === 64 ? 96 : 76;
    case 'boolean':
      return 72;
    case 'numeric':
    case 'float':
      return 100;
    case 'date':
    case 'time':
      return 116;
    case 'timestamp':
      return 168;
    case 'interval':
      return 112;
    case 'enum':
      return 108;
    case 'uuid':
      return 290;
    case 'text':
      return /name|title/.test(name) ? 190 : 220;
    case 'json':
    case 'binary':
    case 'range':
    case 'array':
    case 'opaque':
      return 170;
    default:
      throw new Error(`no width for ${JSON.stringify(type satisfies never)}`);
  }
}
