import { sortInForce } from '@ephoros/core/query';
import { moved, withSort } from '@ephoros/core/view';
import { useModel } from '../parts/table-context.ts';

/** What is done with a column as a whole: its order, its place, whether it is shown. */
export interface ColumnActions {
  /** Sorts by it alone; undefined sorts by nothing. */
  readonly sortBy: (descending: boolean | undefined) => void;
  /** Whether a reader has chosen a sort that it is part of. */
  readonly sorted: boolean;
  /** At which side it stays in view, if at any. */
  readonly pinned: 'start' | 'end' | undefined;
  /** Keeps it in view at a side, or lets it go. */
  readonly pin: (side: 'start' | 'end' | undefined) => void;
  /** Undefined where it is the only column. */
  readonly hide: (() => void) | undefined;
  /** By so many places; undefined where there are no such places. */
  readonly moveBy: (places: number) => (() => void) | undefined;
  readonly fit: () => void;
}

export function useColumnActions(name: string): ColumnActions {
  const { view, change, table, shown, pins, fit } = useModel();
  const span = { start: 0, end: 0 };
  const place = shown.indexOf(name);
  const show = (names: readonly string[]): void =>
    change({ columns: names.map((one) => ({ name: one, span })) });
  return {
    sortBy: (descending) => {
      const terms = descending === undefined ? [] : [{ column: { name, span }, descending }];
      change((last) => withSort(last, terms, table));
    },
    sorted:
      view.sort !== undefined && sortInForce(view, table).some((term) => term.column.name === name),
    pinned: pins.end.includes(name) ? 'end' : pins.start.includes(name) ? 'start' : undefined,
    pin: (side) => {
      const others = {
        start: pins.start.filter((one) => one !== name),
        end: pins.end.filter((one) => one !== name),
      };
      change({
        pinned: side === 'start' ? [...others.start, name] : others.start,
        // What is at its default is not stated.
        pinnedEnd:
          side === 'end'
            ? [...others.end, name]
            : others.end.length === 0 && view.pinnedEnd === undefined && pins.end.length === 0
              ? undefined
              : others.end,
      });
    },
    hide: shown.length > 1 ? () => show(shown.filter((one) => one !== name)) : undefined,
    moveBy: (places) => {
      const to = place + places;
      if (place < 0 || to < 0 || to >= shown.length) return undefined;
      return () => show(moved(shown, place, to));
    },
    fit: () => fit([name]),
  };
}
