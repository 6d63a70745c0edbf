import type { Value } from '@ephoros/client';
import type { Expression } from '@ephoros/core/expression';
import type { Term } from '@ephoros/core/query';
import type { ResultColumn } from '@ephoros/core/schema';
import { formatText } from '@ephoros/react';
import type { ReactElement } from 'react';
import { reader } from '../service.ts';

/** The column that an aggregate is about, under which it stands; undefined for none. */
export function columnOfTerm(expression: Expression): string | undefined {
  const [of] = expression.kind === 'call' ? expression.args : [];
  return of?.kind === 'property' ? of.name : undefined;
}

const signs: Readonly<Record<string, string>> = {
  count: 'count',
  distinct: 'different',
  sum: 'sum',
  avg: 'avg',
  min: 'least',
  max: 'greatest',
  median: 'median',
  percentile: 'pct',
  share: 'share',
};

interface AggregateCellProps {
  readonly terms: readonly Term[];
  readonly columns: readonly ResultColumn[];
  readonly values: Readonly<Record<string, Value>>;
}

/** Aggregates under their column: each with a word for what it is. */
export function AggregateCell({ terms, columns, values }: AggregateCellProps): ReactElement {
  return (
    <>
      {terms.map(({ name, expression }, index) => {
        const column = columns.find((one) => one.name === name);
        const value = values[name] ?? null;
        const word = expression.kind === 'call' ? (signs[expression.name] ?? '') : '';
        const text =
          column === undefined || value === null ? '—' : formatText(value, column, reader);
        return (
          <span
            key={name}
            title={`${column?.label ?? name}: ${text}`}
            className="whitespace-nowrap"
          >
            {index > 0 && <span className="text-faint"> · </span>}
            <span className="pr-1 text-xs font-normal text-faint">{word}</span>
            {text}
          </span>
        );
      })}
    </>
  );
}
