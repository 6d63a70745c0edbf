import { call, number, property, type Expression } from '@ephoros/core/expression';
import { printTerms, termOf, type Term } from '@ephoros/core/query';
import type { AggregateName, ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { useState, type ReactElement } from 'react';
import { ColumnList } from './column-list.tsx';
import type { View } from './view-state.ts';

const words: Readonly<Record<AggregateName, string>> = {
  sum: 'sum',
  avg: 'average',
  min: 'least',
  max: 'greatest',
  median: 'median',
  percentile: '90th percentile',
  share: 'share of the whole',
  distinct: 'different values',
  count: 'values that are there',
};

/** Which aggregates of a column are shown, for the groups and for the whole result. */
export function AggregateChoices({
  view,
  column,
}: {
  view: View;
  column: ColumnDescription;
}): ReactElement {
  const chosen = view.query.aggregate ?? [];
  const ordered = (Object.keys(words) as AggregateName[]).filter((name) =>
    column.aggregates.includes(name),
  );
  return (
    <ul className="grid grid-cols-2 gap-x-4 gap-y-1">
      {ordered.map((name) => {
        const term = termOf(aggregateCall(name, column.name));
        const shown = chosen.some((one) => one.name === term.name);
        return (
          <li key={name}>
            <label className="flex cursor-pointer items-center gap-2">
              <input
                type="checkbox"
                className="accent-amber"
                checked={shown}
                onChange={() => {
                  const others = chosen.filter((one) => one.name !== term.name);
                  view.change(aggregateTexts(shown ? others : [...others, term]));
                }}
              />
              {words[name]}
            </label>
          </li>
        );
      })}
    </ul>
  );
}

/** A column, and then what is made of it. */
export function AggregateOffer({
  view,
  table,
}: {
  view: View;
  table: TableDescription;
}): ReactElement {
  const [column, setColumn] = useState<ColumnDescription>();
  if (column === undefined) {
    const possible = table.columns.filter(({ aggregates }) => aggregates.length > 0);
    return <ColumnList columns={possible} choose={setColumn} />;
  }
  return (
    <>
      <h2 className="mb-2 font-serif text-lg">{column.label}</h2>
      <AggregateChoices view={view} column={column} />
    </>
  );
}

function aggregateCall(name: AggregateName, column: string): Expression {
  const further = name === 'percentile' ? [number('90')] : [];
  return call(name, property(column), ...further);
}

/** The texts for other aggregates. */
export function aggregateTexts(
  terms: readonly Term[],
): Readonly<Record<string, string | undefined>> {
  return { aggregate: terms.length === 0 ? undefined : printTerms(terms) };
}
