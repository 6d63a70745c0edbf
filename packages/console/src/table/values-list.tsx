import type { Value, ValuesAnswer } from '@ephoros/client';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { Cell, formatValue } from '@ephoros/react';
import { useCallback, useDeferredValue, useState, type ReactElement } from 'react';
import { useAnswer } from '../answer.ts';
import { client, reader } from '../service.ts';
import { sortTermBy, type View } from './view-state.ts';

interface ValuesListProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly column: ColumnDescription;
  readonly chosen: readonly string[];
  readonly change: (chosen: readonly string[]) => void;
  /** The reader wants the rows without a value. */
  readonly chooseMissing: () => void;
}

/** Values of one answer; more are read as they are asked for. */
const atOnce = 50;

/** The values that a column has under the view, with their counts, to be chosen from. */
export function ValuesList(props: ValuesListProps): ReactElement {
  const { view, table, column, chosen, change, chooseMissing } = props;
  const [sought, setSought] = useState('');
  const containing = useDeferredValue(sought.trim());
  const [windows, setWindows] = useState(1);
  const { filter, search } = view.texts;
  const ask = useCallback(
    (signal: AbortSignal) => {
      const { filter: where, search: words } = view.query;
      const query = {
        ...(where && { filter: where }),
        ...(words && { search: words }),
        sort: [sortTermBy('count()', true)],
        limit: atOnce * windows,
      };
      const options = containing === '' ? {} : { containing };
      return client.values(table.name, column.name, query, options, signal);
    },
    // The texts stand for the query, which is made anew with every change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, column.name, filter, search, containing, windows],
  );
  const answer = useAnswer(ask);
  return (
    <div>
      <input
        className="field mb-2 w-full"
        type="search"
        placeholder="find values"
        aria-label="Find values"
        value={sought}
        onChange={({ target }) => {
          setSought(target.value);
          setWindows(1);
        }}
      />
      {answer.state === 'loading' && <p className="text-sm text-faint">reading the values …</p>}
      {answer.state === 'failed' && (
        <p role="alert" className="max-w-72 text-sm text-fault">
          {answer.error.message}{' '}
          <button type="button" className="cursor-pointer underline" onClick={answer.retry}>
            Try again
          </button>
        </p>
      )}
      {answer.state === 'ready' && (
        <Listed
          answer={answer.result}
          column={column}
          chosen={chosen}
          change={change}
          chooseMissing={chooseMissing}
          more={() => setWindows((last) => last + 1)}
        />
      )}
    </div>
  );
}

interface ListedProps extends Pick<
  ValuesListProps,
  'column' | 'chosen' | 'change' | 'chooseMissing'
> {
  readonly answer: ValuesAnswer;
  readonly more: () => void;
}

function Listed(props: ListedProps): ReactElement {
  const { answer, column, chosen, change, chooseMissing, more } = props;
  const { values, window } = answer;
  if (values.length === 0) return <p className="text-sm text-faint">no value has this in it</p>;
  const there = values.flatMap(({ value }) => (value === null ? [] : [textOf(value)]));
  const all = there.length > 0 && there.every((one) => chosen.includes(one));
  const left = (window.total ?? values.length) - values.length;
  return (
    <>
      {there.length > 1 && (
        <label className="mb-1 flex cursor-pointer items-center gap-2 border-b border-rule pb-1 text-sm">
          <input
            type="checkbox"
            className="accent-amber"
            checked={all}
            onChange={() => {
              const others = chosen.filter((one) => !there.includes(one));
              change(all ? others : [...others, ...there]);
            }}
          />
          all {there.length.toLocaleString(reader.locale)} that are listed
        </label>
      )}
      <ul className="grid max-h-64 gap-0.5 overflow-auto" aria-label={`Values of ${column.label}`}>
        {values.map(({ value, count }) => (
          <li key={JSON.stringify(value)}>
            {value === null ? (
              <button
                type="button"
                className="flex w-full cursor-pointer items-baseline gap-2 text-left text-faint hover:text-amber"
                onClick={chooseMissing}
              >
                <span className="grow pl-5 italic">missing</span>
                <Count count={count} />
              </button>
            ) : (
              <ValueLine
                value={value}
                count={count}
                column={column}
                checked={chosen.includes(textOf(value))}
                toggle={() => {
                  const text = textOf(value);
                  change(
                    chosen.includes(text)
                      ? chosen.filter((one) => one !== text)
                      : [...chosen, text],
                  );
                }}
              />
            )}
          </li>
        ))}
      </ul>
      {left > 0 && (
        <button type="button" className="offer mt-1" onClick={more}>
          {left.toLocaleString(reader.locale)} more
        </button>
      )}
      {window.asOf !== undefined && (
        <p className="mt-1 text-xs text-faint">
          counted at {new Date(window.asOf).toLocaleTimeString(reader.locale)}
        </p>
      )}
    </>
  );
}

interface ValueLineProps {
  readonly value: Value;
  readonly count: number;
  readonly column: ColumnDescription;
  readonly checked: boolean;
  readonly toggle: () => void;
}

function ValueLine({ value, count, column, checked, toggle }: ValueLineProps): ReactElement {
  return (
    <label className="flex cursor-pointer items-baseline gap-2 hover:text-amber">
      <input type="checkbox" className="accent-amber" checked={checked} onChange={toggle} />
      <span className="min-w-0 grow overflow-hidden text-ellipsis whitespace-nowrap">
        <Cell value={formatValue(value, column, reader)} />
      </span>
      <Count count={count} />
    </label>
  );
}

function Count({ count }: { count: number }): ReactElement {
  return (
    <span className="text-sm text-faint tabular-nums">{count.toLocaleString(reader.locale)}</span>
  );
}

/** A value in the notation of a condition. */
function textOf(value: Value): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}
