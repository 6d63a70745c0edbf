import { mostLevels } from '@ephoros/core/check';
import type { Expression } from '@ephoros/core/expression';
import { sortInForce, termOf } from '@ephoros/core/query';
import { columnsToChoose, type ColumnDescription } from '@ephoros/core/schema';
import { withLevel, withSort } from '@ephoros/core/view';
import { useId, useState, type ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { AggregateChoices } from './aggregate-choices.tsx';
import { ColumnFinder } from './column-finder.tsx';
import { ColumnList } from './column-list.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { RecentConditions } from './recent-conditions.tsx';
import { groupChoices, inSteps, isBinned } from './group-choices.ts';

interface OfferProps {
  readonly done: () => void;
}

/** A column, and then a condition on it. */
export function ConditionOffer({ done }: OfferProps): ReactElement {
  const [column, setColumn] = useState<ColumnDescription>();
  if (column === undefined) {
    return (
      <ColumnFinder offers={({ filterable }) => filterable} choose={setColumn}>
        <RecentConditions done={done} />
      </ColumnFinder>
    );
  }
  return (
    <>
      <h2 className="eph-sheet-title">{column.label}</h2>
      <ConditionEditor column={column} done={done} />
    </>
  );
}

/** A column to sort by after the terms in force. */
export function SortOffer({ done }: OfferProps): ReactElement {
  const { view, change, table, reader } = useModel();
  const { noIndex } = reader.messages.editors;
  const terms = sortInForce(view, table);
  const sorted = new Set(terms.map(({ column }) => column.name));
  return (
    <ColumnList
      columns={columnsToChoose(table).filter(({ name, sortable }) => sortable && !sorted.has(name))}
      remark={(column) => (column.indexed ? '' : noIndex)}
      choose={({ name }) => {
        const span = { start: 0, end: 0 };
        const added = [...terms, { column: { name, span }, descending: false }];
        change((last) => withSort(last, added, table));
        done();
      }}
    />
  );
}

/** A column to group by, of the table or of those it refers to, and then how. */
export function GroupOffer({ done }: OfferProps): ReactElement {
  const { view, reader } = useModel();
  const [column, setColumn] = useState<ColumnDescription>();
  if ((view.group ?? []).length >= mostLevels) {
    return <p>{reader.messages.editors.mostLevels(mostLevels)}</p>;
  }
  if (column === undefined) {
    return <ColumnFinder offers={({ groupable }) => groupable} choose={setColumn} />;
  }
  return (
    <>
      <h2 className="eph-sheet-title">{column.label}</h2>
      <GroupWays column={column} done={done} />
    </>
  );
}

interface GroupWaysProps extends OfferProps {
  readonly column: ColumnDescription;
}

/** The ways to group by one column; a chosen one becomes the last level. */
export function GroupWays({ column, done }: GroupWaysProps): ReactElement {
  const { change, reader } = useModel();
  const { editors } = reader.messages;
  const [width, setWidth] = useState('10');
  const id = useId();
  const add = (expression: Expression): void => {
    change((view) => withLevel(view, termOf(expression)));
    done();
  };
  const steps = inSteps(column.name, width.trim());
  return (
    <ul className="eph-plain-list">
      {isBinned(column) && (
        <li>
          <form
            className="eph-in-line"
            onSubmit={(event) => {
              event.preventDefault();
              if (steps !== undefined) add(steps);
            }}
          >
            <label htmlFor={id}>{editors.inStepsOf}</label>
            <input
              id={id}
              className="eph-field eph-short"
              inputMode="decimal"
              value={width}
              onChange={({ target }) => setWidth(target.value)}
            />
            <button type="submit" className="eph-offer">
              {editors.group}
            </button>
          </form>
          {steps === undefined && (
            <p role="alert" className="eph-trouble">
              {editors.stepHint}
            </p>
          )}
        </li>
      )}
      {groupChoices(column, reader.timeZone, editors).map(({ label, expression }) => (
        <li key={label}>
          <button type="button" className="eph-line-button" onClick={() => add(expression)}>
            {editors.by(label)}
          </button>
        </li>
      ))}
    </ul>
  );
}

/** A column, and then what is made of it. */
export function AggregateOffer(): ReactElement {
  const { table } = useModel();
  const [column, setColumn] = useState<ColumnDescription>();
  if (column === undefined) {
    const possible = table.columns.filter(({ aggregates }) => aggregates.length > 0);
    return <ColumnList columns={possible} choose={setColumn} />;
  }
  return (
    <>
      <h2 className="eph-sheet-title">{column.label}</h2>
      <AggregateChoices column={column} />
    </>
  );
}
