import { JsonRefusal, readJson, type JsonNode } from '@ephoros/core/expression';
import { fileWords } from '@ephoros/core/file';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import { unknownParameter } from '@ephoros/core/query';
import { z } from 'zod';
import { mostProblems, Refused } from '../query/index.ts';

/** Characters of one member of a body. */
export const mostCharacters = 262_144;

const text = z.string().max(mostCharacters);
const names = z.union([text, z.array(text)]);
const wholeNumber = z.union([text, z.int()]);

/** As in the URL, or as JSON has it. */
const truth = z.union([z.boolean(), z.enum(['true', 'false'])]);

const value = z.union([text, z.number(), z.boolean(), z.null()]);

const matching = {
  filter: z.union([text, z.record(z.string(), z.unknown())]),
  'filter-lang': z.enum(['cql2-text', 'cql2-json']),
  search: text,
  explain: truth,
};

const placed = {
  ...matching,
  sort: names,
  nulls: text,
  limit: wholeNumber,
  page: wholeNumber,
  offset: wholeNumber,
  after: text,
  before: text,
};

const grouping = {
  group: names,
  path: z.union([text, z.array(value)]),
  aggregate: names,
};

const { page: _page, before: _before, limit: _limit, ...fromHere } = placed;
/** How a file is written. */
const fileForm = {
  header: z.enum(fileWords.header),
  delimiter: z.enum(fileWords.delimiter),
  missing: z.enum(fileWords.missing),
  'line-end': z.enum(fileWords['line-end']),
  bom: truth,
  formulas: truth,
  'value-labels': truth,
  levels: z.enum(fileWords.levels),
};

/** The bodies of questions: the parameters as JSON. Lists may be lists, a filter CQL2 JSON. */
export const bodies = {
  rows: z
    .strictObject({ columns: names, ...placed, total: text, shape: text, cells: wholeNumber })
    .partial()
    .meta({ id: 'Query' }),
  groups: z
    .strictObject({ ...placed, ...grouping })
    .partial()
    .meta({ id: 'GroupsQuery' }),
  aggregates: z
    .strictObject({ ...matching, aggregate: grouping.aggregate })
    .partial()
    .meta({ id: 'AggregatesQuery' }),
  export: z
    .strictObject({
      columns: names,
      group: names,
      aggregate: names,
      ...fromHere,
      limit: wholeNumber,
      ticket: text,
      ...fileForm,
    })
    .partial()
    .extend({ format: z.enum(fileWords.format) })
    .meta({ id: 'ExportQuery' }),
  values: z
    .strictObject({ ...placed, containing: text, bins: wholeNumber, counts: truth })
    .partial()
    .meta({ id: 'ValuesQuery' }),
};

/** Levels of a body: those of a filter in CQL2 JSON, and the body's own. */
const mostLevels = 310;

/** A body's members as parameters. @throws Refused */
export function readBody(
  body: string,
  schema: (typeof bodies)[keyof typeof bodies],
): {
  values: Readonly<Record<string, string>>;
  problems: readonly Problem[];
  characters: number;
} {
  const { plain, written } = parse(body);
  const read = schema.safeParse(plain);
  if (!read.success) {
    const known = Object.keys(schema.shape);
    throw new Refused(read.error.issues.flatMap((issue) => problemsOf(issue, known)));
  }
  const values: Record<string, string> = {};
  for (const [name, member] of Object.entries(read.data)) {
    if (member === undefined) continue;
    // As it was written: numbers would lose digits on the way through a JavaScript value.
    const text = written(name);
    if (name === 'path' && typeof member !== 'string') values[name] = text;
    else if (Array.isArray(member)) values[name] = member.join(',');
    else if (typeof member === 'object') {
      values[name] = text;
      values['filter-lang'] = 'cql2-json';
    } else values[name] = String(member);
  }
  return { values, problems: [], characters: mostCharacters };
}

/** The body as a value, and the text of each of its members. @throws Refused */
function parse(body: string): { plain: unknown; written: (name: string) => string } {
  try {
    // Positions and repeated members first, which `JSON.parse` knows nothing of.
    const node = readJson(body, mostLevels);
    const members = node.kind === 'object' ? node.members : new Map<string, JsonNode>();
    return {
      plain: JSON.parse(body),
      written: (name) => {
        const span = members.get(name)?.span;
        return span === undefined ? '' : body.slice(span.start, span.end);
      },
    };
  } catch (thrown) {
    const malformed = problem('malformed-body', { expected: 'JSON' });
    const violation = thrown instanceof JsonRefusal ? thrown.problem : undefined;
    throw new Refused([violation?.code === 'repeated-member' ? violation : malformed]);
  }
}

function problemsOf(issue: z.core.$ZodIssue, known: readonly string[]): Problem[] {
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.slice(0, mostProblems).map((name) => unknownParameter(name, known));
  }
  const [name] = issue.path;
  if (name === undefined) return [problem('malformed-body', { expected: 'a JSON object' })];
  if (issue.code === 'too_big') {
    return inParameter(String(name), [problem('parameter-too-long', { most: mostCharacters })]);
  }
  if (issue.code === 'invalid_value') {
    const facts = { allowed: issue.values.map(String).join(', ') };
    return inParameter(String(name), [problem('not-one-of', facts)]);
  }
  const expected = `right in ${String(name)}: ${issue.message}`;
  return inParameter(String(name), [problem('malformed-body', { expected })]);
}
