import { columnsAround, mostLevels } from '@ephoros/core/check';
import type { Expression } from '@ephoros/core/expression';
import { termOf } from '@ephoros/core/query';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { useMemo, useState, type ReactElement } from 'react';
import { ColumnList } from './column-list.tsx';
import { groupChoices, inSteps, isBinned } from './group-choices.ts';
import { groupTexts, type View } from './view-state.ts';

interface GroupOfferProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly done: () => void;
}

/** Foreign keys followed to offer related columns. */
const stepsAway = 2;

/** A column to group by, of the table or of those it refers to, and then how. */
export function GroupOffer({ view, table, done }: GroupOfferProps): ReactElement {
  const [column, setColumn] = useState<ColumnDescription>();
  const [sought, setSought] = useState('');
  const related = useMemo(() => columnsAround(table, view.tables, stepsAway), [table, view.tables]);
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
  const fits = ({ label, name, groupable }: ColumnDescription): boolean =>
    groupable && `${label} ${name}`.toLowerCase().includes(sought.toLowerCase());
  return (
    <>
      <input
        className="field mb-2 w-full"
        type="search"
        placeholder="find a column"
        aria-label="Find a column"
        value={sought}
        onChange={({ target }) => setSought(target.value)}
      />
      <ColumnList columns={table.columns.filter(fits)} choose={setColumn} />
      {related.some(fits) && (
        <p className="mt-3 mb-1 font-serif text-sm text-faint italic">of what a row refers to</p>
      )}
      <ColumnList columns={related.filter(fits)} choose={setColumn} />
    </>
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
