import type { Row, WrittenQuery } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import { sortedBy } from '@ephoros/core/view';
import { useMemo, type MouseEvent, type ReactElement } from 'react';
import { isEndAligned, widthOf } from '../format/layout.ts';
import { formatValue, type FullReader } from '../format/value.ts';
import type { RequestClient } from '../records/request-client.ts';
import { useRecordsOf } from '../records/use-records.ts';
import { Cell } from '../table/cell.tsx';
import type { TableColumn } from '../table/column.ts';
import { positionUnder } from '../table/line-under.ts';
import { RecordTable } from '../table/record-table.tsx';
import { rowAt } from '../table/row-at.ts';

interface SmallTableProps {
  readonly client: RequestClient;
  readonly table: string;
  readonly title: string;
  readonly query: WrittenQuery;
  readonly columns: readonly string[];
  readonly reader: FullReader;
  /** A row was pressed twice, or Enter on it. */
  readonly open: (row: Row) => void;
}

/** Rows as they are, one long scroll, sorted by their headers. */
export function SmallTable(props: SmallTableProps): ReactElement {
  const { client, table, title, query, columns: names, reader, open } = props;
  const records = useRecordsOf(
    { client: client, table, query, columns: names, reading: 'scroll' },
    false,
  );
  const { columns: described, source, sort, change, error, status } = records;
  const columns = useMemo(
    () => described.map((column) => columnOf(column, reader)),
    [described, reader],
  );
  const openUnder = ({ target, currentTarget }: MouseEvent): void => {
    const row = rowAt(source, positionUnder(target, currentTarget));
    if (row !== undefined) open(row);
  };
  return (
    <div className="eph-small-table" onDoubleClick={openUnder}>
      <RecordTable
        source={source}
        columns={columns}
        label={title}
        sort={sort}
        onSort={(name, add) => change((last) => sortedBy(last, name, add, records.table))}
        onRowKey={(key, row) => {
          if (key === 'Enter') open(row);
          return key === 'Enter';
        }}
        rowHeight={30}
        instead={
          status === 'failed' ? (
            <p role="alert" className="eph-trouble">
              {error?.message}
            </p>
          ) : undefined
        }
      />
    </div>
  );
}

function columnOf(column: ColumnDescription, reader: FullReader): TableColumn {
  const { name, label, sortable } = column;
  return {
    name,
    label,
    sortable,
    width: Math.max(widthOf(column), label.length * 8.5 + 30),
    align: isEndAligned(column) ? 'end' : 'start',
    render: (value) => <Cell value={formatValue(value, column, reader)} />,
  };
}
