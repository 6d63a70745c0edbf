import { chosenQuery, filterText, joinFilters, type ChosenRows } from '@ephoros/client';
import { mostSelected } from '@ephoros/core/expression';
import { changed } from '@ephoros/core/view';
import { useMemo, useState, type ReactElement } from 'react';
import { formatText } from '../format/value.ts';
import { isOutline } from '../table/row-at.ts';
import { useAnswer } from '../use-answer.ts';
import { filterExpression } from './filter-expression.ts';
import type { RangeRefusal } from './select-range.ts';
import { useCount, useModel, useRowsOf } from './table-context.ts';
import { useCounted } from './use-counted.ts';

export { selectRange } from './select-range.ts';

/** Something that a page does with chosen rows. */
export interface TableAction {
  readonly label: string;
  /**
   * Does it. While a promise is under way the action says so, and how far it is where `progress` is
   * reported; what it rejects with is stated in its place.
   */
  readonly run: (chosen: ChosenRows, about: ChosenAbout) => unknown;
}

/** What an action knows of the rows that it is for. */
export interface ChosenAbout {
  /** How many rows; undefined where that is not known yet. */
  readonly count: number | undefined;
  /** The rows as a question: `client.rows(table, query)` answers them. */
  readonly query: ReturnType<typeof chosenQuery>;
  readonly progress: (done: number, of: number) => void;
  /** Has no row chosen any more. */
  readonly clear: () => void;
}

interface SelectionLineProps {
  readonly actions: readonly TableAction[];
  /** Why a range of rows was not selected. */
  readonly refusal: RangeRefusal;
}

/** How many rows are chosen of what, with ways to see just those, to choose all, to drop them. */
export function SelectionLine({ actions, refusal }: SelectionLineProps): ReactElement {
  const { selection, total, totalKind, open, request, source, match } = useRowsOf();
  const { change, table, reader } = useModel();
  const { messages } = reader;
  const written = useCount();
  const counted = useCounted();
  const { chosen, keys, count, countKind, clear, selectMatching } = selection;
  const most = Math.max(keys.length, chosen.kind === 'matching' ? chosen.except.length : 0);
  const more =
    selection.several &&
    chosen.kind === 'keys' &&
    // Lines of groups are no rows.
    !isOutline(source) &&
    !open &&
    total !== undefined &&
    total > keys.length;
  // What is too much for one question is stored by the service first.
  const mayAsk = most <= mostSelected || request !== undefined;
  const [failure, setFailure] = useState<Error>();
  const queryOfChosen = async (): Promise<ReturnType<typeof chosenQuery>> =>
    chosenQuery(request === undefined ? chosen : await request.queryable(chosen));
  const showThese = async (): Promise<void> => {
    try {
      const query = await queryOfChosen();
      setFailure(undefined);
      change((view) => {
        // What was chosen under another condition is not narrowed by the one in force.
        const own = chosen.kind === 'matching' ? undefined : view.filter;
        const { filter: these } = query;
        const filter = these === undefined ? undefined : filterExpression(joinFilters(own, these));
        return changed(view, {
          filter,
          search: chosen.kind === 'matching' ? query.search : view.search,
          place: undefined,
        });
      });
    } catch (thrown) {
      setFailure(thrown instanceof Error ? thrown : new Error(String(thrown)));
    }
  };
  // Where these alone are shown it is plain how many of them are there.
  const alone =
    chosen.kind === 'keys' &&
    !isOutline(source) &&
    totalKind === 'exact' &&
    match.search === undefined &&
    filterText(match.filter) === filterText(chosenQuery(chosen).filter);
  const gone = alone && total !== undefined ? keys.length - total : 0;
  const error = refusal instanceof Error ? refusal : failure;
  return (
    <span className="eph-selection" data-testid="selection">
      {count === undefined
        ? messages.loading
        : messages.selectedOf(count, counted(count, countKind), table.title)}
      {selection.isElsewhere && <em className="eph-trouble"> {messages.underOtherFilter}</em>}{' '}
      <Sums chosen={chosen} />
      {mayAsk && (
        <button type="button" className="eph-offer" onClick={() => void showThese()}>
          {messages.onlyThese}
        </button>
      )}{' '}
      {more && (
        <button type="button" className="eph-offer" onClick={selectMatching}>
          {messages.selectAll(counted(total, totalKind))}
        </button>
      )}{' '}
      <button type="button" className="eph-offer" onClick={clear}>
        {messages.clearSelection}
      </button>
      {selection.isBlocked && (
        <span role="alert" className="eph-trouble">
          {messages.searchNotCombined}
        </span>
      )}
      {gone > 0 && (
        <span role="alert" className="eph-trouble">
          {messages.goneRows(gone, written(gone))}
        </span>
      )}
      {(error !== undefined || refusal !== undefined || !mayAsk) && (
        <span role="alert" className="eph-trouble">
          {error?.message ?? messages.tooManyKeys(written(mostSelected))}
        </span>
      )}
      {actions.map((action) => (
        <Action
          key={action.label}
          action={action}
          about={{ count, clear }}
          query={queryOfChosen}
          chosen={chosen}
        />
      ))}
    </span>
  );
}

/** What is made of the selected rows, where anything is made of all. */
function Sums({ chosen }: { readonly chosen: ChosenRows }): ReactElement | null {
  const { request } = useRowsOf();
  const { view, reader } = useModel();
  const { aggregate } = view;
  const query = useMemo(() => {
    const options = request?.aggregates;
    if (
      request === undefined ||
      options === undefined ||
      aggregate === undefined ||
      aggregate.length === 0
    )
      return undefined;
    return async (signal: AbortSignal) =>
      options({ ...chosenQuery(await request.queryable(chosen)), aggregate }, signal);
  }, [request, chosen, aggregate]);
  const answer = useAnswer(query);
  if (answer.state !== 'ready') return null;
  const { aggregates, values } = answer.result;
  return (
    <>
      {aggregates.map((one) => (
        <span key={one.name} className="eph-aside">
          {one.label} {formatText(values[one.name] ?? null, one, reader)}
        </span>
      ))}
    </>
  );
}

interface ActionProps {
  readonly action: TableAction;
  readonly about: Pick<ChosenAbout, 'count' | 'clear'>;
  readonly query: () => Promise<ChosenAbout['query']>;
  readonly chosen: ChosenRows;
}

/** A button that does something with the chosen rows, and says how far it is. */
function Action({ action, about, query, chosen }: ActionProps): ReactElement {
  const { messages } = useModel().reader;
  const written = useCount();
  const [running, setRunning] = useState<{ readonly done: number; readonly of: number }>();
  const [error, setError] = useState<string>();
  const run = async (): Promise<void> => {
    setError(undefined);
    setRunning({ done: 0, of: 0 });
    try {
      const progress = (done: number, of: number): void => setRunning({ done, of });
      await action.run(chosen, { ...about, query: await query(), progress });
    } catch (thrown) {
      setError(thrown instanceof Error ? thrown.message : String(thrown));
    } finally {
      setRunning(undefined);
    }
  };
  const far =
    running === undefined || running.of === 0
      ? ''
      : ` ${messages.doneOf(written(running.done), written(running.of))}`;
  return (
    <>
      {' '}
      <button
        type="button"
        className="eph-plate"
        disabled={running !== undefined}
        aria-busy={running !== undefined}
        onClick={() => void run()}
      >
        {action.label}
        {far}
      </button>
      {error !== undefined && (
        <span role="alert" className="eph-trouble">
          {' '}
          {action.label}: {error}
        </span>
      )}
    </>
  );
}
