import type { Value } from '@ephoros/client';
import type { Term } from '@ephoros/core/query';
import { isAggregateName, type ResultColumn } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import { formatText } from '../format/value.ts';
import type { FullReader } from '../format/value.ts';

interface AggregateCellProps {
  readonly terms: readonly Term[];
  readonly columns: readonly ResultColumn[];
  readonly values: Readonly<Record<string, Value>>;
  readonly reader: FullReader;
}

/** Aggregates under their column: each with a word for what it is. */
export function AggregateCell({
  terms,
  columns,
  values,
  reader,
}: AggregateCellProps): ReactElement {
  const { signs } = reader.messages;
  return (
    <>
      {terms.map(({ name, expression }, index) => {
        const column = columns.find((one) => one.name === name);
        const value = values[name] ?? null;
        const of = expression.kind === 'call' ? expression.name : '';
        const text =
          column === undefined || value === null ? '—' : formatText(value, column, reader);
        return (
          <span key={name} className="eph-sum" title={`${column?.label ?? name}: ${text}`}>
            {index > 0 && <span className="eph-aside"> · </span>}
            <small>{isAggregateName(of) ? signs[of] : ''}</small>
            {text}
          </span>
        );
      })}
    </>
  );
}
