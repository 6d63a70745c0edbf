import { fileWords } from '@ephoros/core/file';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import { unknownParameter, type QueryParameter } from '@ephoros/core/query';
import { z } from 'zod';
import { mostProblems, Refused } from './refused.ts';

// However the configuration sets it, no parameter is longer; `parseParameters` holds the rest.
const mostCharacters = 65_536;

const text = (description: string, example: string): z.ZodOptional<z.ZodString> =>
  z.string().max(mostCharacters).optional().meta({ description, example });

/** What each query parameter means; the same words stand in the OpenAPI document. */
const query = {
  columns: text('Which columns, in this order; by default all that are shown.', 'id,passed_at'),
  filter: text(
    'Which rows: a condition in CQL2 Text (OGC 21-065).',
    "status = 'disputed' AND toll > 100",
  ),
  'filter-lang': text('"cql2-text" (default) or "cql2-json".', 'cql2-text'),
  search: text(
    'Words and "quoted phrases", each of which must occur in some searchable column.',
    'heron "upper gate"',
  ),
  group: text(
    'The levels of a grouping: columns, or functions of them.',
    'lock.canal.name,month(passed_at)',
  ),
  path: text(
    'The values of the groups above the level asked for, as a JSON list; none by default.',
    '["Wend Cut"]',
  ),
  aggregate: text('What is made of the rows of each group.', 'count(),sum(toll)'),
  sort: text('Sort terms by weight, "-" for descending. The key always follows.', '-passed_at'),
  nulls: text('Where nulls stand in the sort: "last" (default) or "first".', 'last'),
  limit: text("Rows at most; the table's row cap applies and is told.", '100'),
  page: text('Which page, from 1. One of page, offset, after and before.', '3'),
  offset: text('How many rows to skip.', '200'),
  after: text('A cursor: the rows just after it.', 'WyItcGFzc2VkX2F0…'),
  before: text('A cursor: the rows just before it, in the order of the sort.', 'WyItcGFzc2VkX2F0…'),
  total: text(
    'How hard to count: "exact" (default; an estimate where counting takes long), "estimate" or "none".',
    'exact',
  ),
  shape: text('Rows as "objects" (default) or as "arrays" in column order.', 'objects'),
  cells: text(
    'Characters of a long value at most, 1 to 1,000,000; the answer says which were cut.',
    '1000',
  ),
} satisfies Record<QueryParameter, z.ZodType>;

const explain = z
  .enum(['true', 'false'])
  .optional()
  .meta({ description: 'Whether the answer tells how it came about, where that is allowed.' });

const { columns, group, path, aggregate, total, shape, cells, ...placed } = query;
const { filter, search, sort, nulls } = query;
const matching = { filter, 'filter-lang': query['filter-lang'], search };

export const rowsParameters = z.strictObject({
  columns,
  ...placed,
  total,
  shape,
  cells,
  explain,
});
export const milepostParameters = z.strictObject({
  ...matching,
  sort,
  nulls,
  ticks: text('How many places, 1 to 2,000; 200 by default.', '200'),
});
export const groupsParameters = z.strictObject({ ...placed, group, path, aggregate, explain });
/** What is watched: rows, wherever they lie. */
export const liveParameters = z.strictObject(matching);
export const aggregatesParameters = z.strictObject({ ...matching, aggregate, explain });
export const valuesParameters = z.strictObject({
  ...placed,
  containing: text('Only values with this text in them, letter case ignored.', 'wend'),
  bins: text('Bins of a histogram of numbers, dates or timestamps, 1 to 200.', '20'),
  counts: z.enum(['true', 'false']).optional().meta({
    description:
      'Whether rows are counted; with `false` the values of an indexed column come at once.',
  }),
});
/** How a file is written. */
const fileForm = {
  format: z.enum(fileWords.format).meta({ description: 'The format of the file.' }),
  header: z.enum(fileWords.header).optional().meta({
    description: 'What the first line of CSV and XLSX calls the columns; "names" by default.',
  }),
  delimiter: z.enum(fileWords.delimiter).optional().meta({
    description: 'What stands between the fields of CSV; "comma" by default.',
  }),
  missing: z.enum(fileWords.missing).optional().meta({
    description: 'What stands for null in CSV: nothing (default), NULL or \\N.',
  }),
  'line-end': z.enum(fileWords['line-end']).optional().meta({
    description: 'What ends the lines of CSV; "crlf" by default (RFC 4180).',
  }),
  bom: z.enum(['true', 'false']).optional().meta({
    description: 'Whether CSV begins with the mark that tells some spreadsheets that it is UTF-8.',
  }),
  formulas: z.enum(['true', 'false']).optional().meta({
    description: 'Whether CSV leaves texts as they are that a spreadsheet would compute.',
  }),
  levels: z.enum(fileWords.levels).optional().meta({
    description:
      'Levels of groups as columns (default), or, in XLSX, as lines above what lies in them, to be folded.',
  }),
  'value-labels': z.enum(['true', 'false']).optional().meta({
    description: 'Whether what coded values are called stands in place of them.',
  }),
};
const { page: _page, before: _before, limit: _limit, ...taken } = placed;
const ticket = text(
  'Under which it can be asked how far the file is: 8 to 64 letters, digits, - and _ that nobody guesses.',
  '5f0c2b9e7d1a4c38',
);
export const exportParameters = z.strictObject({
  ticket,
  columns,
  group,
  aggregate,
  ...taken,
  limit: text('Rows at most; all that match by default.', '100000'),
  ...fileForm,
});
export const rowParameters = z.strictObject({ columns });
/** How a set of changes is saved. */
export const savingParameters = z.strictObject({
  mode: z.enum(['all', 'each']).optional().meta({
    description: 'All of it or nothing (`all`, the default), or each change that can be saved.',
  }),
  dryRun: z
    .enum(['true', 'false'])
    .optional()
    .meta({ description: 'Whether it is only tried: nothing is saved.' }),
});
export const historyParameters = z.strictObject({
  limit: z.string().optional().meta({ description: 'Entries at most: 1 to 100, the default.' }),
  after: z.string().optional().meta({ description: 'What `next` of an answer said.' }),
});
export const viewsParameters = z.strictObject({
  table: z.string().optional().meta({ description: 'Only views of this table.' }),
  search: z.string().max(200).optional().meta({
    description: 'A part of the name or the note, letter case ignored.',
  }),
  first: z
    .enum(['true', 'false'])
    .optional()
    .meta({ description: 'Only views that their table opens with.' }),
  limit: z.string().optional().meta({ description: 'Views at most: 1 to 100, the default.' }),
  after: z.string().optional().meta({ description: 'What `next` of an answer said.' }),
});
export const noParameters = z.strictObject({});

/**
 * A request's parameters, decoded, each known and given once; and what is wrong with the others,
 * so that the errors inside of those that can be read are reported with them.
 */
export function readParameters<Name extends string>(
  url: string,
  schema: z.ZodObject<Record<Name, z.ZodType>, z.core.$strict>,
): { values: Partial<Record<Name, string>>; problems: readonly Problem[] } {
  const { values, problems } = decodeParameters(url);
  const read = schema.safeParse(values);
  const known = Object.keys(schema.shape);
  const issues = read.success ? [] : read.error.issues;
  const refused = new Set(issues.map(({ path: [name] }) => String(name)));
  const sound = Object.entries(values).filter(
    ([name]) => known.includes(name) && !refused.has(name),
  );
  return {
    values: Object.fromEntries(sound) as Partial<Record<Name, string>>,
    problems: [...problems, ...issues.flatMap((issue) => problemsOf(issue, known))],
  };
}

/** For paths that take no parameters. @throws Refused */
export function refuseParameters(url: string): void {
  const { problems } = readParameters(url, noParameters);
  if (problems.length > 0) throw new Refused(problems);
}

function problemsOf(issue: z.core.$ZodIssue, known: readonly string[]): Problem[] {
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.slice(0, mostProblems).map((name) => unknownParameter(name, known));
  }
  if (issue.code === 'invalid_value') {
    const facts = { allowed: issue.values.map(String).join(', ') };
    return inParameter(String(issue.path[0]), [problem('not-one-of', facts)]);
  }
  // All values are texts by now; their length is the only other thing the schemas ask for.
  const place = { start: mostCharacters, end: mostCharacters };
  const name = String(issue.path[0]);
  return inParameter(name, [problem('parameter-too-long', { most: mostCharacters }, place)]);
}

/** The parameters of a URL, each given once: application/x-www-form-urlencoded, strictly. */
export function decodeParameters(url: string): {
  values: Record<string, string>;
  problems: readonly Problem[];
} {
  const values: Record<string, string> = Object.create(null) as Record<string, string>;
  const problems = pairsIn(url).flatMap(({ name, value, problems: own }) => {
    const isRepeated = name in values;
    if (value !== undefined) values[name] = value;
    const repeated = isRepeated ? [problem('repeated-parameter', { name })] : [];
    return inParameter(name, [...repeated, ...own]);
  });
  return { values, problems };
}

/** The same in their order, as often as they are given. */
export function decodePairs(url: string): {
  pairs: readonly (readonly [name: string, value: string])[];
  problems: readonly Problem[];
} {
  const found = pairsIn(url);
  return {
    pairs: found.flatMap(({ name, value }) =>
      value === undefined ? [] : [[name, value] as const],
    ),
    problems: found.flatMap(({ name, problems }) => inParameter(name, problems)),
  };
}

interface Pair {
  readonly name: string;
  /** Undefined where it cannot be decoded: that is reported, not guessed at. */
  readonly value: string | undefined;
  readonly problems: readonly Problem[];
}

function pairsIn(url: string): readonly Pair[] {
  const start = url.indexOf('?');
  const pairs = start === -1 ? [] : url.slice(start + 1).split('&');
  return pairs.flatMap((pair): readonly Pair[] => {
    if (pair === '') return [];
    const equals = pair.indexOf('=');
    const rawName = equals === -1 ? pair : pair.slice(0, equals);
    const rawValue = equals === -1 ? '' : pair.slice(equals + 1);
    const value = unescaped(rawValue);
    const problems = value === undefined ? [malformed(rawValue)] : [];
    return [{ name: unescaped(rawName) ?? rawName, value, problems }];
  });
}

function unescaped(raw: string): string | undefined {
  try {
    return decodeURIComponent(raw.replaceAll('+', ' '));
  } catch {
    return undefined;
  }
}

/** The place counts in the decoded text up to the escape that cannot be decoded. */
function malformed(raw: string): Problem {
  let good = 0;
  for (const match of raw.matchAll(/%/g)) {
    if (unescaped(raw.slice(0, match.index)) !== undefined) good = match.index;
  }
  const start = unescaped(raw.slice(0, good))?.length ?? 0;
  return problem('malformed-escape', {}, { start, end: start + 1 });
}
