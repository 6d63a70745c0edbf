import { keyValue, type AnchorRow } from '@ephoros/core/check';
import type { QueryParameter } from '@ephoros/core/query';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import { parseKey, type TableDescription } from '@ephoros/core/schema';

/** Begins a cursor that somebody wrote: the row's key as in its address, `key:17`. */
const begins = 'key:';

type Values = Partial<Record<QueryParameter, string>>;

/** A place next to a row that is named by its key, and the question without it. */
export interface KeyPlace {
  readonly values: Values;
  readonly anchorRow: AnchorRow | undefined;
  readonly problems: readonly Problem[];
}

/** Takes `after=key:17` out of a question's parameters; undefined where there is none. */
export function keyPlaceIn(values: Values, table: TableDescription): KeyPlace | undefined {
  const kind = (['after', 'before'] as const).find((one) => values[one]?.startsWith(begins));
  if (kind === undefined) return undefined;
  const { [kind]: token = '', ...rest } = values;
  const others: Values = rest;
  const places = ['page', 'offset', 'after', 'before'] as const;
  const other = places.find((one) => others[one] !== undefined);
  if (other !== undefined) {
    const conflict = problem('conflicting-parameters', { names: `${other} and ${kind}` });
    return { values: others, anchorRow: undefined, problems: inParameter(kind, [conflict]) };
  }
  const parts = parseKey(token.slice(begins.length)) ?? [];
  const key = table.key.map((name, at) => {
    const column = table.columns.find((one) => one.name === name);
    return column && keyValue(parts[at] ?? '', column.type);
  });
  const sound = key.filter((value) => value !== undefined);
  if (key.length > 0 && parts.length === key.length && sound.length === key.length) {
    return { values: others, anchorRow: { kind, key: sound }, problems: [] };
  }
  const malformed = problem('malformed-cursor', {}, { start: 0, end: token.length });
  return { values: others, anchorRow: undefined, problems: inParameter(kind, [malformed]) };
}
