import {
  chosenQuery,
  filterText,
  countExactly,
  joinFilters,
  keyOfRow,
  nothingChosen,
  printParameters,
  selectedKeys,
  type ChosenRows,
  type Row,
  type WrittenQuery,
} from '@ephoros/client';
import { useCallback, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { useAnswer } from '../use-answer.ts';
import { useSame } from '../use-same.ts';
import type { QueryOptions } from './request-client.ts';

export interface SelectionOptions {
  /** The selected rows, where somebody else keeps them: their keys, as `Selection.keyOf` writes them. */
  readonly selected?: ChosenRows | readonly string[] | undefined;
  /** Called at every change of the selection, with the keys (none where all that match are meant), and all of it. */
  readonly onSelectedChange?: ((keys: readonly string[], chosen: ChosenRows) => void) | undefined;
  /** How many rows can be selected: any number by default. */
  readonly selecting?: 'several' | 'single' | undefined;
}

/** The rows that are selected, by their keys or as all that match, wherever they lie. */
export interface Selection {
  readonly chosen: ChosenRows;
  /** Whether more than one row can be selected. */
  readonly several: boolean;
  /** Whether all rows are selected that match another condition than the one in force. */
  readonly isElsewhere: boolean;
  /** Whether a row was not selected, since rows that a search found cannot be combined with others. */
  readonly isBlocked: boolean;
  /** Keys, as `keyOf` writes them; none where all that match are selected. */
  readonly keys: readonly string[];
  /** How many rows; undefined while that is requested, an estimate until they are counted. */
  readonly count: number | undefined;
  readonly countKind: 'exact' | 'estimate';
  /** What distinguishes a row; undefined where the table has no key. */
  readonly keyOf: (row: object) => string | undefined;
  readonly has: (row: object) => boolean;
  readonly toggle: (row: object) => void;
  /** Of the rows in the window. */
  readonly inWindow: 'none' | 'some' | 'all';
  /** Selects all rows in the window; none of them where all are selected. */
  readonly toggleWindow: () => void;
  /** Selects rows in addition to those that are selected. */
  readonly add: (rows: readonly object[]) => void;
  /** Selects all rows that match, also those that come to match later. */
  readonly selectMatching: () => void;
  /** Selects these rows, and no others. */
  readonly choose: (rows: ChosenRows) => void;
  readonly clear: () => void;
}

/** What a selection is made in. */
export interface Selecting extends SelectionOptions {
  readonly request: QueryOptions | undefined;
  readonly key: readonly string[];
  /** The rows of the window. */
  readonly rows: readonly (Row | undefined)[];
  /** Which rows are shown: the same object until that changes. */
  readonly match: WrittenQuery;
  /** How many these are, where that is known exactly. */
  readonly total: number | undefined;
}

/** Selects rows of a window; those of other windows stay selected. */
export function useSelection(options: Selecting): Selection {
  const { selected: given, key, rows, match, total, selecting = 'several' } = options;
  const [own, setOwn] = useState<ChosenRows>(nothingChosen);
  const selected = asChosen(given) ?? own;
  // However often it is put together, the same selection is the same object.
  const written = JSON.stringify(selected);
  const chosen = useSame(selected, written);
  const names = key.join('\n');
  const [blocked, setBlocked] = useState<string>();
  const keyOf = useCallback(
    (row: object) => keyOfRow(row, names === '' ? [] : names.split('\n')),
    [names],
  );
  const windowKeys = rows.flatMap((row) => (row === undefined ? [] : (keyOf(row) ?? [])));
  // All that is shown is chosen but the exceptions, where what matches is what was chosen.
  const same = chosen.kind === 'matching' && textOf(match) === textOf({ ...chosen });
  const held = useHeld(options, chosen, same, windowKeys);
  const listed = useMemo(
    () => new Set(chosen.kind === 'keys' ? chosen.keys : chosen.except),
    [chosen],
  );
  const isChosen = useCallback(
    (one: string): boolean => {
      if (chosen.kind === 'keys') return listed.has(one);
      return !listed.has(one) && (same || held.has(one));
    },
    [chosen, listed, same, held],
  );
  const has = useCallback(
    (row: object) => {
      const one = keyOf(row);
      return one !== undefined && isChosen(one);
    },
    [isChosen, keyOf],
  );
  const some = windowKeys.filter(isChosen).length;
  const inWindow: Selection['inWindow'] =
    some === 0 ? 'none' : some === windowKeys.length ? 'all' : 'some';
  // Anyone who keeps a function means the window and the selection of the moment.
  const latest = useRef({ windowKeys, inWindow, chosen, isChosen, match, options });
  useLayoutEffect(() => {
    latest.current = { windowKeys, inWindow, chosen, isChosen, match, options };
  });
  const put = useCallback((next: ChosenRows) => {
    latest.current = { ...latest.current, chosen: next };
    setOwn(next);
    latest.current.options.onSelectedChange?.(next.kind === 'keys' ? next.keys : [], next);
  }, []);
  /** Has some keys selected, or not. */
  const set = useCallback(
    (those: readonly string[], wanted: boolean) => {
      const { chosen: last } = latest.current;
      const rest = (list: readonly string[]): readonly string[] =>
        list.filter((one) => !those.includes(one));
      if (last.kind === 'matching') {
        if (!wanted) put({ ...last, except: [...rest(last.except), ...those] });
        else {
          const { isChosen: isIn } = latest.current;
          const outside = those.filter((one) => !last.except.includes(one) && !isIn(one));
          const next = withKeys({ ...last, except: rest(last.except) }, outside);
          setBlocked(
            outside.length > 0 && last.search !== undefined ? JSON.stringify(next) : undefined,
          );
          put(next);
        }
      } else put({ kind: 'keys', keys: wanted ? [...rest(last.keys), ...those] : rest(last.keys) });
    },
    [put],
  );
  const single = selecting === 'single';
  return {
    chosen,
    isElsewhere: chosen.kind === 'matching' && !same,
    isBlocked: blocked === written,
    several: !single,
    keys: chosen.kind === 'keys' ? chosen.keys : [],
    ...useCount(options, chosen, same ? total : undefined),
    keyOf,
    has,
    toggle: useCallback(
      (row: object) => {
        const one = keyOf(row);
        if (one === undefined) return;
        const wanted = !latest.current.isChosen(one);
        if (single) put({ kind: 'keys', keys: wanted ? [one] : [] });
        else set([one], wanted);
      },
      [keyOf, set, put, single],
    ),
    inWindow,
    toggleWindow: useCallback(() => {
      const { windowKeys: shown, inWindow: how } = latest.current;
      if (!single) set(shown, how !== 'all');
    }, [set, single]),
    add: useCallback(
      (more: readonly object[]) => {
        if (!single)
          set(
            more.flatMap((row) => keyOf(row) ?? []),
            true,
          );
      },
      [keyOf, set, single],
    ),
    selectMatching: useCallback(() => {
      const { filter, search } = latest.current.match;
      put({
        kind: 'matching',
        ...(filter && { filter }),
        ...(search && { search }),
        except: [],
      });
    }, [put]),
    choose: put,
    clear: useCallback(() => put(nothingChosen), [put]),
  };
}

type Matching = Extract<ChosenRows, { readonly kind: 'matching' }>;

/** The rows that match a condition, and some that do not. Words that are searched for cannot have such. */
function withKeys(chosen: Matching, keys: readonly string[]): Matching {
  const { filter, search } = chosen;
  if (keys.length === 0 || filter === undefined || search !== undefined) return chosen;
  return { ...chosen, filter: `(${filterText(filter)}) OR ${filterText(selectedKeys(keys))}` };
}

function asChosen(given: SelectionOptions['selected']): ChosenRows | undefined {
  return given === undefined || 'kind' in given ? given : { kind: 'keys', keys: given };
}

/** A condition and a search as two sides can compare them. */
function textOf({ filter, search }: Pick<WrittenQuery, 'filter' | 'search'>): string {
  return printParameters({
    ...(filter && { filter }),
    ...(search && { search }),
  }).join('\n');
}

const none: ReadonlySet<string> = new Set();

/**
 * Which rows of the window are among all that matched something else: the service knows. Those of
 * the window before stay until that is answered.
 */
function useHeld(
  { request, key }: Selecting,
  chosen: ChosenRows,
  same: boolean,
  windowKeys: readonly string[],
): ReadonlySet<string> {
  const path = chosen.kind === 'matching' && !same ? windowKeys.join('\n') : '';
  const names = key.join('\n');
  const queryText = useMemo(() => {
    if (path === '' || request === undefined) return undefined;
    const keys = path.split('\n');
    const columns = names.split('\n').map((name) => ({ name, span: { start: 0, end: 0 } }));
    return async (signal: AbortSignal): Promise<ReadonlySet<string>> => {
      const { filter, ...rest } = chosenQuery(await request.queryable(chosen));
      const query: WrittenQuery = {
        ...rest,
        filter: joinFilters(filter, selectedKeys(keys)),
        columns,
        limit: keys.length,
        total: 'none',
      };
      const { rows } = await request.rows(query, signal);
      return new Set(rows.flatMap((row) => keyOfRow(row, names.split('\n')) ?? []));
    };
  }, [path, request, chosen, names]);
  const answer = useAnswer(queryText);
  const [last, setLast] = useState(none);
  const now = answer.state === 'ready' ? answer.result : last;
  if (now !== last) setLast(now);
  return now;
}

/** How many rows are chosen: known of keys, and of all that is shown; else counted by the service. */
function useCount(
  { request }: Selecting,
  chosen: ChosenRows,
  total: number | undefined,
): Pick<Selection, 'count' | 'countKind'> {
  const known =
    chosen.kind === 'keys'
      ? chosen.keys.length
      : total && Math.max(0, total - chosen.except.length);
  const unknown = known === undefined;
  const [near, setNear] = useState<{ readonly chosen: unknown; readonly count: number }>();
  const query = useMemo(() => {
    if (!unknown || request === undefined) return undefined;
    return async (signal: AbortSignal) =>
      countExactly(request.rows, chosenQuery(await request.queryable(chosen)), signal, (count) =>
        setNear({ chosen, count }),
      );
  }, [unknown, request, chosen]);
  const answer = useAnswer(query);
  const count = answer.state === 'ready' ? answer.result : known;
  return {
    count: count ?? (near?.chosen === chosen ? near.count : undefined),
    countKind: count === undefined ? 'estimate' : 'exact',
  };
}
