import { call, number, property, type Expression } from '@ephoros/core/expression';
import { termOf } from '@ephoros/core/query';
import type { AggregateName, ColumnDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { Tick } from './choices.tsx';

/** Which aggregates of a column are shown, for the groups and for the whole result. */
export function AggregateChoices({ column }: { column: ColumnDescription }): ReactElement {
  const { view, change, reader } = useModel();
  const words = reader.messages.editors.aggregates;
  const chosen = view.aggregate ?? [];
  const ordered = (Object.keys(words) as AggregateName[]).filter((name) =>
    column.aggregates.includes(name),
  );
  return (
    <ul className="eph-plain-list eph-two-columns">
      {ordered.map((name) => {
        const term = termOf(aggregateCall(name, column.name));
        const shown = chosen.some((one) => one.name === term.name);
        return (
          <li key={name}>
            <Tick
              checked={shown}
              change={() => {
                const others = chosen.filter((one) => one.name !== term.name);
                const aggregate = shown ? others : [...others, term];
                change({ aggregate: aggregate.length === 0 ? undefined : aggregate });
              }}
            >
              {words[name]}
            </Tick>
          </li>
        );
      })}
    </ul>
  );
}

function aggregateCall(name: AggregateName, column: string): Expression {
  const further = name === 'percentile' ? [number('90')] : [];
  return call(name, property(column), ...further);
}
