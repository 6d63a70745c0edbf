import { checkValuesOf, lineConditions, type CheckedValues } from '@ephoros/core/check';
import { edgesBetween } from '@ephoros/core/decimal';
import { and, printExpression, property } from '@ephoros/core/expression';
import { momentsBetween } from '@ephoros/core/moment';
import { isMeasured, isNumeric, type ColumnType } from '@ephoros/core/schema';
import { compileHistogram, compileRange } from '@ephoros/core/sql';
import { expectTypes, valueEncoder } from '../encode/index.ts';
import {
  type Asked,
  type Parameters,
  type Timings,
  checkedAgainst,
  readCount,
  readWith,
} from '../question/index.ts';
import {
  lineValue,
  linkedTo,
  pathValue,
  resultColumn,
  windowOf,
  type AgedAnswer,
} from './groups.ts';
import { readLines } from './lines.ts';

/** Bins of a histogram at most. */
const mostBins = 200;

/** The values that a column has under a query, with their counts; their range and histogram. */
export async function answerValues(
  column: string,
  {
    containing,
    bins: asBins,
    ...parameters
  }: Parameters & { readonly containing: string | undefined; readonly bins: string | undefined },
  asked: Asked,
  timings: Timings,
  signal: AbortSignal,
): Promise<AgedAnswer> {
  const { catalog, description } = asked;
  const { count: bins, problems } = readCount('bins', asBins, { most: mostBins });
  const read = { ...parameters, problems: [...parameters.problems, ...problems] };
  const { checked } = readWith(read, catalog, timings, (query) =>
    checkValuesOf(
      query,
      { column, containing: containing === '' ? undefined : containing, bins },
      description,
      checkedAgainst(catalog),
    ),
  );
  const { grouping } = checked;
  const [level] = grouping.levels;
  if (level === undefined) throw new Error('values are of one column');
  const [lines, measures] = await Promise.all([
    readLines(grouping, asked, timings, signal),
    measure(checked, level.type, asked, signal),
  ]);
  const json = timings.during('encode', () => {
    const value = lineValue(level);
    const values = lines.window.rows.map((row) => {
      const text = value(row);
      const at = pathValue(text);
      const own = at && lineConditions(property(column), level, at);
      const filter = own && and(own);
      const told = JSON.stringify({
        filter: filter === undefined ? null : printExpression(filter),
      });
      return `{"value":${text},"count":${row[1] ?? '0'},${told.slice(1)}`;
    });
    const head = JSON.stringify({ table: description.name, column: resultColumn(level) });
    const tail = JSON.stringify(windowOf(grouping, lines)).slice(1);
    return `${head.slice(0, -1)},"values":[${values.join(',')}],${measures}${tail}`;
  });
  return { json, at: lines.at, linked: linkedTo(grouping, lines) };
}

/** The range and the histogram as members of the answer, where there are any. */
async function measure(
  { grouping, bins }: CheckedValues,
  type: ColumnType,
  { remembered, catalog }: Asked,
  signal: AbortSignal,
): Promise<string> {
  if (!isMeasured(type)) return '';
  const asking = { signal, table: grouping.table.name };
  const { rows, types } = await remembered.run(compileRange(grouping, catalog.locate), asking);
  expectTypes(types, [{ type }, { type }], catalog);
  const [[least = null, greatest = null] = []] = rows;
  if (least === null || greatest === null) return '"range":null,';
  const encode = valueEncoder(type);
  const range = `"range":{"least":${encode(least)},"greatest":${encode(greatest)}},`;
  if (bins === undefined) return range;
  const statement = compileHistogram(grouping, { least, greatest, bins }, catalog.locate);
  const counted = await remembered.run(statement, asking);
  const counts = new Map(counted.rows.map(([bin, count]) => [Number(bin), count ?? '0']));
  const edges = edgesOf(type, least, greatest, bins);
  const all = Array.from(
    { length: bins },
    (_, bin) =>
      `{"from":${edges[bin] ?? 'null'},"to":${edges[bin + 1] ?? 'null'},"count":${counts.get(bin) ?? '0'}}`,
  );
  return `${range}"histogram":[${all.join(',')}],`;
}

/** Where the bins begin, and the last one ends, as JSON. */
function edgesOf(
  type: ColumnType,
  least: string,
  greatest: string,
  bins: number,
): readonly string[] {
  const encode = valueEncoder(type);
  if (isNumeric(type)) return edgesBetween(least, greatest, bins).map(encode);
  const zone = type.kind === 'timestamp' && type.zone ? 'Z' : '';
  const inside = momentsBetween(least, greatest, bins, type.kind === 'date').map((text) =>
    text === undefined ? 'null' : `"${text}${zone}"`,
  );
  // The ends as they are written everywhere.
  return [encode(least), ...inside.slice(1, -1), encode(greatest)];
}
