import {
  fetchWhole,
  joinFilters,
  keyOfRow,
  selectedKeys,
  type ChosenRows,
  type Row,
} from '@ephoros/client';
import { mostSelected, type Expression } from '@ephoros/core/expression';
import { betweenRows, type OrderTerm } from '@ephoros/core/query';
import type { Drawn } from '../records/use-records.ts';
import { filterExpression } from './filter-expression.ts';
import { isOutline, rowAt } from '../table/row-at.ts';

/** What keeps a range from being selected. */
export type RangeRefusal = 'too-long' | Error | undefined;

/** One end of a range: where a row lies, and which it is. */
export interface RangeEnd {
  readonly position: number;
  readonly key: string | undefined;
}

/**
 * Selects the rows from one to another (each of them too), in the order in force; those that were
 * never loaded are requested, by their keys alone. What is longer than one question has room for is
 * selected by a condition: all rows between the two.
 */
export async function selectRange(
  records: Drawn,
  from: RangeEnd,
  to: RangeEnd,
): Promise<RangeRefusal> {
  const { source, selection, request, query, table } = records;
  const [first, last] = from.position < to.position ? [from, to] : [to, from];
  const count = last.position - first.position + 1;
  try {
    if (count > mostSelected && request !== undefined && !isOutline(source)) {
      const chosen = await chosenBetween(records, first, last, from.key);
      if (chosen === undefined) return 'too-long';
      selection.choose(chosen);
      return undefined;
    }
    const positions = Array.from({ length: count }, (_, index) => first.position + index);
    const loaded = positions.map((position) => rowAt(source, position));
    const there = loaded.filter((row) => row !== undefined);
    if (there.length === loaded.length || isOutline(source) || request?.rows === undefined) {
      selection.add(there);
      return undefined;
    }
    // In one question, unless the table answers fewer rows at once.
    const { rows } = await fetchWhole(request.rows, {
      ...query,
      columns: table.key.map((name) => ({ name, span })),
      place: { kind: 'offset', offset: first.position },
      limit: count,
      total: 'none',
    });
    selection.add(rows);
    return undefined;
  } catch (thrown) {
    return thrown instanceof Error ? thrown : new Error(String(thrown));
  }
}

const span = { start: 0, end: 0 };

/**
 * The rows between two as all that match a condition, with those that are selected already.
 * Undefined where that cannot be stated.
 */
async function chosenBetween(
  { request, query, match, sort, table, column, selection }: Drawn,
  first: RangeEnd,
  last: RangeEnd,
  anchor: string | undefined,
): Promise<ChosenRows | undefined> {
  const { chosen } = selection;
  if (chosen.kind !== 'keys' || first.key === undefined || last.key === undefined) return undefined;
  const others = chosen.keys.filter((key) => key !== anchor);
  // A search would leave out those that are selected without it.
  if (others.length > mostSelected || (others.length > 0 && match.search !== undefined)) {
    return undefined;
  }
  const descending = sort.at(-1)?.descending ?? false;
  const named = [
    ...sort.map((mark) => ({ name: mark.column, descending: mark.descending })),
    ...table.key
      .filter((name) => !sort.some((mark) => mark.column === name))
      .map((name) => ({ name, descending })),
  ];
  const terms = named.flatMap(({ name, ...term }): OrderTerm[] => {
    const described = column(name);
    return described === undefined
      ? []
      : [{ ...term, column: described, nulls: query.nulls ?? 'last' }];
  });
  if (terms.length < named.length) return undefined;
  const ends = await request?.rows({
    columns: [...new Set([...named.map(({ name }) => name), ...table.key])].map((name) => ({
      name,
      span,
    })),
    filter: selectedKeys([first.key, last.key]),
    limit: 2,
    total: 'none',
  });
  const endOf = ({ key }: RangeEnd): Row | undefined =>
    ends?.rows.find((row) => keyOfRow(row, table.key) === key);
  const [begins, stops] = [endOf(first), endOf(last)];
  const between = begins && stops && betweenRows(terms, begins, stops);
  if (between === undefined) return undefined;
  const range = filterExpression(joinFilters(match.filter, between));
  if (range === undefined) return undefined;
  const filter: Expression =
    others.length === 0 ? range : { kind: 'or', operands: [range, selectedKeys(others)], span };
  return {
    kind: 'matching',
    filter,
    ...(match.search === undefined ? {} : { search: match.search }),
    except: [],
  };
}
