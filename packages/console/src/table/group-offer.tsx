import { mostLevels } from '@ephoros/core/check';
import type { Expression } from '@ephoros/core/expression';
import { termOf } from '@ephoros/core/query';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { useState, type ReactElement } from 'react';
import { ColumnFinder } from './column-finder.tsx';
import { groupChoices, inSteps, isBinned } from './group-choices.ts';
import { groupTexts, type View } from './view-state.ts';

interface GroupOfferProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly done: () => void;
}

/** A column to group by, of the table or of those it refers to, and then how. */
export function GroupOffer({ view, table, done }: GroupOfferProps): ReactElement {
  const [column, setColumn] = useState<ColumnDescription>();
  if ((view.query.group ?? []).length >= mostLevels) {
    return (
      <p className="text-sm">There are {mostLevels} levels, which is as many as there may be.</p>
    );
  }
  if (column !== undefined) {
    return (
      <>
        <h2 className="mb-2 font-serif text-lg">{column.label}</h2>
        <GroupWays view={view} column={column} done={done} />
      </>
    );
  }
  return (
    <ColumnFinder
      table={table}
      tables={view.tables}
      offers={({ groupable }) => groupable}
      choose={setColumn}
    />
  );
}

/** The ways to group by one column; a chosen one becomes the last level. */
export function GroupWays({
  view,
  column,
  done,
}: {
  view: View;
  column: ColumnDescription;
  done: () => void;
}): ReactElement {
  const [width, setWidth] = useState('10');
  const group = view.query.group ?? [];
  const add = (expression: Expression): void => {
    const term = termOf(expression);
    if (!group.some(({ name }) => name === term.name)) {
      view.change(groupTexts([...group, term], view));
    }
    done();
  };
  const steps = inSteps(column.name, width.trim());
  return (
    <ul className="grid gap-1">
      {isBinned(column) && (
        <li>
          <form
            className="flex items-baseline gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (steps !== undefined) add(steps);
            }}
          >
            <label htmlFor="steps">in steps of</label>
            <input
              id="steps"
              className="field w-20"
              inputMode="decimal"
              value={width}
              onChange={({ target }) => setWidth(target.value)}
            />
            <button type="submit" className="offer">
              Group
            </button>
          </form>
          {steps === undefined && (
            <p role="alert" className="text-sm text-fault">
              A step is a number above zero.
            </p>
          )}
        </li>
      )}
      {groupChoices(column).map(({ label, expression }) => (
        <li key={label}>
          <button
            type="button"
            className="w-full cursor-pointer text-left hover:text-amber"
            onClick={() => add(expression)}
          >
            by {label}
          </button>
        </li>
      ))}
    </ul>
  );
}
