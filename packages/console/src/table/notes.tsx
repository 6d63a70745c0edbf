import type { Problem } from '@ephoros/core/problem';
import type { TableDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import type { View } from './view-state.ts';

/** In place of rows: the table holds none. */
export function EmptyNote({ table }: { table: TableDescription }): ReactElement {
  return (
    <div data-testid="empty">
      <p className="font-serif text-2xl">{table.title} is empty.</p>
      <p className="mt-2 text-faint">No row has been written to it yet.</p>
    </div>
  );
}

/** In place of rows: the conditions leave none. */
export function NothingMatchesNote({ view }: { view: View }): ReactElement {
  return (
    <div data-testid="nothing-matches">
      <p className="font-serif text-2xl">Nothing matches.</p>
      <p className="mt-2 text-faint">There are rows, but none that the conditions leave.</p>
      <button
        type="button"
        className="plate mt-4"
        onClick={() => view.change({ filter: undefined, page: undefined, offset: undefined })}
      >
        Drop the conditions
      </button>
    </div>
  );
}

/** In place of rows: the page lies behind the last one. */
export function BehindTheEndNote({ view }: { view: View }): ReactElement {
  return (
    <div data-testid="behind-the-end">
      <p className="font-serif text-2xl">The result ends before this page.</p>
      <button
        type="button"
        className="plate mt-4"
        onClick={() => view.change({ page: undefined, offset: undefined })}
      >
        To the first page
      </button>
    </div>
  );
}

/** In place of rows: the address asks for something that cannot be answered. */
export function RefusedNote({
  problems,
  view,
}: {
  problems: readonly Problem[];
  view: View;
}): ReactElement {
  // What is wrong with the filter is said where it stands.
  const elsewhere = problems.filter(({ parameter }) => parameter !== 'filter');
  return (
    <div role="alert" data-testid="refused">
      <p className="font-serif text-2xl text-fault">This cannot be answered as it stands.</p>
      {elsewhere.length < problems.length && (
        <p className="mt-2">The condition above needs mending.</p>
      )}
      <ul className="mt-2 grid gap-1">
        {elsewhere.map(({ parameter, message, hint }, index) => (
          <li key={index}>
            <code className="font-mono text-sm text-faint">{parameter}</code> {message} {hint}
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="plate mt-4"
        onClick={() =>
          view.change(
            Object.fromEntries(problems.map(({ parameter = 'filter' }) => [parameter, undefined])),
          )
        }
      >
        Leave that out
      </button>
    </div>
  );
}
