import type { ColumnDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import type { ChangeState } from '../state/use-table-state.ts';
import type { TableState } from '../state/table-state.ts';
import { withCondition } from '../records/use-records.ts';
import { widthWithin } from '../table/grip.tsx';
import type { TableColumn } from '../table/column.ts';
import { useMessages } from '../messages/use-messages.ts';
import { ConditionForm } from './condition-form.tsx';

interface ColumnSheetProps {
  readonly column: ColumnDescription;
  readonly shown: TableColumn;
  readonly state: TableState;
  readonly change: ChangeState;
  /** The names of all columns in view, in their order. */
  readonly names: readonly string[];
  readonly close: () => void;
}

/** What can be done with a column: condition, sort, place, width. */
export function ColumnSheet(props: ColumnSheetProps): ReactElement {
  const { column, shown, state, change, names, close } = props;
  const messages = useMessages();
  const { name } = column;
  const sortBy = (descending: boolean | undefined): void => {
    const others = state.sort.filter((mark) => mark.column !== name);
    change({ sort: descending === undefined ? others : [{ column: name, descending }] });
    close();
  };
  const place = names.indexOf(name);
  const moveTo = (to: number): void => {
    const order = names.filter((one) => one !== name);
    order.splice(to, 0, name);
    change({ order });
  };
  const isPinned = shown.pinned === true;
  const pin = (): void =>
    change(({ pinned }) => ({
      pinned: isPinned ? pinned.filter((one) => one !== name) : [...pinned, name],
    }));
  return (
    <>
      <strong className="eph-sheet-title">{column.label}</strong>
      {column.filterable && (
        <ConditionForm
          column={column}
          condition={state.conditions[name]}
          onChange={(condition) => {
            change((last) => withCondition(last, name, condition));
            close();
          }}
        />
      )}
      <div className="eph-deeds eph-deeds-down">
        {column.sortable && (
          <>
            <button type="button" onClick={() => sortBy(false)}>
              {messages.sortAscending}
            </button>
            <button type="button" onClick={() => sortBy(true)}>
              {messages.sortDescending}
            </button>
            {state.sort.some((mark) => mark.column === name) && (
              <button type="button" onClick={() => sortBy(undefined)}>
                {messages.sortNot}
              </button>
            )}
          </>
        )}
        <button type="button" disabled={place <= 0} onClick={() => moveTo(place - 1)}>
          {messages.earlier}
        </button>
        <button
          type="button"
          disabled={place >= names.length - 1}
          onClick={() => moveTo(place + 1)}
        >
          {messages.later}
        </button>
        <button type="button" onClick={pin}>
          {isPinned ? messages.unpin : messages.pin}
        </button>
        <button
          type="button"
          disabled={names.length === 1}
          onClick={() => {
            change(({ hidden }) => ({ hidden: [...hidden, name] }));
            close();
          }}
        >
          {messages.hide}
        </button>
      </div>
      <label className="eph-width">
        <span>{messages.width}</span>
        <input
          type="number"
          step={10}
          value={shown.width}
          onChange={({ target }) => {
            const width = widthWithin(Number(target.value), shown);
            change(({ widths }) => ({ widths: { ...widths, [name]: width } }));
          }}
        />
      </label>
    </>
  );
}
