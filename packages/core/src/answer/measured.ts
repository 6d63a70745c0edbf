import type { CheckedGrouping } from '../check/index.ts';
import { edgesBetween } from '../decimal/index.ts';
import { momentsBetween } from '../moment/index.ts';
import { isMeasured, isNumeric, type ColumnType } from '../schema/index.ts';
import type { Executor } from './executor.ts';
import { JsonText } from './json-text.ts';
import type { Value, ValuesAnswer } from './schemas.ts';

/** The range of values that have a distance from each other, and their histogram. */
export async function measured(
  grouping: CheckedGrouping,
  type: ColumnType,
  bins: number | undefined,
  executor: Executor,
): Promise<Pick<ValuesAnswer, 'range' | 'histogram'>> {
  if (!isMeasured(type)) return {};
  const found = await executor.range(grouping);
  if (found === undefined) return { range: null };
  const { least, greatest } = found;
  const range = { least, greatest };
  if (bins === undefined) return { range };
  const counts = await found.countIn(bins);
  const edges = edgesOf(type, least, greatest, bins).map((edge) =>
    typeof edge === 'string' ? executor.value(edge) : edge.value,
  );
  return {
    range,
    histogram: Array.from({ length: bins }, (_, bin) => ({
      from: edges[bin] ?? null,
      to: edges[bin + 1] ?? null,
      count: counts.get(bin) ?? 0,
    })),
  };
}

/** Where the bins begin, and the last one ends: as JSON text, or as they were found. */
function edgesOf(
  type: ColumnType,
  least: Value,
  greatest: Value,
  bins: number,
): readonly (string | { readonly value: Value })[] {
  const [low, high] = [plain(least), plain(greatest)];
  if (isNumeric(type)) {
    const asNumber = (type.kind === 'integer' && type.bits !== 64) || type.kind === 'float';
    return edgesBetween(low, high, bins).map((edge) => (asNumber ? edge : `"${edge}"`));
  }
  const zone = type.kind === 'timestamp' && type.zone ? 'Z' : '';
  const inside = momentsBetween(low, high, bins, type.kind === 'date').map((text) =>
    text === undefined ? 'null' : `"${text}${zone}"`,
  );
  // The ends as they are written everywhere.
  return [{ value: least }, ...inside.slice(1, -1), { value: greatest }];
}

function plain(value: Value): string {
  const read: unknown = value instanceof JsonText ? JSON.parse(value.text) : value;
  if (typeof read === 'string') return read;
  // Numbers with the digits that they were written with.
  return value instanceof JsonText ? value.text : JSON.stringify(read);
}
