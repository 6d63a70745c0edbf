import type { AggregatesAnswer, GroupLine, OutlineSource } from '@ephoros/client';
import type { Term } from '@ephoros/core/query';
import type { ResultColumn } from '@ephoros/core/schema';
import { columnOfTerm, outlineColumn, type View } from '@ephoros/core/view';
import type { ReactElement, ReactNode } from 'react';
import type { FullReader } from '../format/value.ts';
import { Cell } from '../table/cell.tsx';
import type { TableColumn } from '../table/column.ts';
import type { Answer } from '../use-answer.ts';
import { AggregateCell } from './aggregate-cell.tsx';
import { groupValue } from './group-value.ts';
import { footOf } from './foot.tsx';
import { termsOf, withTotals } from './totals.ts';

export interface OutlineColumns {
  readonly view: View;
  /** The columns of the rows. */
  readonly columns: readonly TableColumn[];
  /** What the levels and the aggregates are, as the service says; undefined until it does. */
  readonly meta: ReturnType<OutlineSource['describe']>;
  /** What the levels are called. */
  readonly labels: readonly string[];
  readonly totals: Answer<AggregatesAnswer | undefined> | undefined;
  /** Whether any group is open down to its rows. */
  readonly rowsOpen: boolean;
  readonly reader: FullReader;
}

/**
 * The columns of an outline: the groups, then what is made of them, each under its column; columns
 * that only rows have once there are rows to show.
 */
export function outlineColumns(outline: OutlineColumns): readonly TableColumn[] {
  const { view, columns, meta, labels, totals, rowsOpen, reader } = outline;
  const { aggregate: terms = [], group = [] } = view;
  const shown = new Set(columns.map(({ name }) => name));
  // What stands under no column stands next to the count.
  const further = terms.filter(({ expression }) => !shown.has(columnOfTerm(expression) ?? ''));
  // The number of rows stands next to every group anyway.
  const otherTerms = further.filter(({ expression }) => !isRowCount(expression));
  const hasFootAtEnd = footOf(totals, further, reader);
  const first: TableColumn = {
    name: outlineColumn,
    label: labels.join(' › '),
    width: 270 + otherTerms.length * 80,
    sortable: true,
    outline: true,
    group: (line, depth) => (
      <GroupLabel line={line} level={meta?.levels[depth]} term={group[depth]} reader={reader}>
        <AggregateCell
          terms={otherTerms}
          columns={meta?.aggregates ?? []}
          values={line.aggregates}
          reader={reader}
        />
      </GroupLabel>
    ),
    ...(hasFootAtEnd && {
      foot: () => (
        <span className="eph-all-rows">
          <span className="eph-grow">{reader.messages.all}</span>
          {hasFootAtEnd()}
        </span>
      ),
    }),
  };
  const summed = columns.filter(({ name }) => termsOf(terms, name).length > 0);
  const others = columns.filter(({ name }) => termsOf(terms, name).length === 0);
  return [
    first,
    ...summed.map((column) => withGroups(column, termsOf(terms, column.name), outline)),
    ...(rowsOpen ? others : []),
  ];
}

function withGroups(
  column: TableColumn,
  terms: readonly Term[],
  { meta, totals, reader }: OutlineColumns,
): TableColumn {
  return {
    ...withTotals(column, terms, totals, reader),
    group: (line: GroupLine) => (
      <AggregateCell
        terms={terms}
        columns={meta?.aggregates ?? []}
        values={line.aggregates}
        reader={reader}
      />
    ),
  };
}

function isRowCount(expression: Term['expression']): boolean {
  return expression.kind === 'call' && expression.name === 'count' && expression.args.length === 0;
}

interface GroupLabelProps {
  readonly line: GroupLine;
  readonly level: ResultColumn | undefined;
  readonly term: Term | undefined;
  readonly reader: FullReader;
  readonly children: ReactNode;
}

/** The value of a group and how many rows it stands for. */
function GroupLabel({ line, level, term, reader, children }: GroupLabelProps): ReactElement {
  const { value, count } = line;
  const written = count.toLocaleString(reader.locale);
  return (
    <>
      <span className="eph-group-value">
        {level === undefined ? null : (
          <Cell value={groupValue(value, level, term?.expression, reader)} />
        )}
      </span>
      <span className="eph-group-sums">{children}</span>
      <span className="eph-count" title={reader.messages.rowsIn(written)}>
        {written}
      </span>
    </>
  );
}
