import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import { unknownParameter, type QueryParameter } from '@ephoros/core/query';
import { z } from 'zod';
import { Refused } from './problems.ts';

/** Characters of one member of a body. */
const mostCharacters = 262_144;

const text = z.string().max(mostCharacters);
const names = z.union([text, z.array(text)]);
const wholeNumber = z.union([text, z.int()]);

/** The body of a query: the parameters as JSON. Lists may be lists, a filter CQL2 JSON. */
export const bodySchema = z
  .strictObject({
    columns: names,
    filter: z.union([text, z.record(z.string(), z.unknown())]),
    'filter-lang': z.enum(['cql2-text', 'cql2-json']),
    search: text,
    sort: names,
    nulls: text,
    limit: wholeNumber,
    page: wholeNumber,
    offset: wholeNumber,
    after: text,
    before: text,
    total: text,
    shape: text,
    explain: z.boolean(),
  })
  .partial()
  .meta({ id: 'Query' });

/** A body's members as parameters. @throws Refused */
export function readBody(body: string): {
  values: Partial<Record<QueryParameter, string>>;
  problems: readonly Problem[];
  explain: boolean;
  characters: number;
} {
  const read = bodySchema.safeParse(parse(body));
  if (!read.success) throw new Refused(read.error.issues.flatMap(problemsOf));
  const { filter, explain = false, ...others } = read.data;
  const values: Record<string, string> = {};
  for (const [name, value] of Object.entries(others)) {
    if (value !== undefined) values[name] = Array.isArray(value) ? value.join(',') : String(value);
  }
  if (typeof filter === 'object') {
    values.filter = JSON.stringify(filter);
    values['filter-lang'] = 'cql2-json';
  } else if (filter !== undefined) values.filter = filter;
  return { values, problems: [], explain, characters: mostCharacters };
}

function parse(body: string): unknown {
  try {
    return JSON.parse(body);
  } catch {
    throw new Refused([problem('malformed-body', { expected: 'JSON' })]);
  }
}

function problemsOf(issue: z.core.$ZodIssue): Problem[] {
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.map((name) => unknownParameter(name, Object.keys(bodySchema.shape)));
  }
  const [name] = issue.path;
  if (name === undefined) return [problem('malformed-body', { expected: 'a JSON object' })];
  if (issue.code === 'too_big') {
    return inParameter(String(name), [problem('parameter-too-long', { most: mostCharacters })]);
  }
  const expected = `right in ${String(name)}: ${issue.message}`;
  return inParameter(String(name), [problem('malformed-body', { expected })]);
}
