import { aggregateNames } from '@ephoros/core/schema';
import { z } from 'zod';
import {
  createDocument,
  type ZodOpenApiPathItemObject,
  type ZodOpenApiResponseObject,
  type ZodOpenApiResponsesObject,
} from 'zod-openapi';
import {
  aggregatesParameters,
  groupsParameters,
  milepostParameters,
  noParameters,
  rowParameters,
  rowsParameters,
  valuesParameters,
} from '../question/index.ts';
import { bodies } from './body.ts';

const column = z
  .looseObject({
    name: z.string(),
    label: z.string(),
    type: z.looseObject({ kind: z.string() }),
    encoding: z.enum(['number', 'string', 'boolean', 'json', 'array']),
    nullable: z.boolean(),
    sortable: z.boolean(),
    filterable: z.boolean(),
    groupable: z.boolean(),
    aggregates: z.array(z.enum(aggregateNames)),
    indexed: z.boolean(),
    shown: z.boolean(),
    textOrder: z.string().optional().meta({
      description: 'How texts are ordered: "C", or the language tag of an ICU collation.',
    }),
  })
  .meta({ id: 'Column' });

const description = z
  .looseObject({
    name: z.string(),
    title: z.string(),
    kind: z.enum(['table', 'view']),
    key: z.array(z.string()).meta({ description: 'Empty when the table has no key.' }),
    columns: z.array(column),
    relationships: z.array(
      z.object({
        name: z.string(),
        kind: z.enum(['one', 'many']),
        table: z.string(),
        columns: z.array(z.string()),
        references: z.array(z.string()),
      }),
    ),
    defaultSort: z.array(z.object({ column: z.string(), descending: z.boolean() })),
    pageSizes: z.array(z.int()),
    rowCap: z.int(),
    estimatedRows: z.int().nullable(),
    remarks: z.array(z.string()),
  })
  .meta({ id: 'Table' });

const tables = z
  .object({
    title: z.string(),
    tables: z.array(
      z.looseObject({
        name: z.string(),
        title: z.string(),
        kind: z.enum(['table', 'view']),
        estimatedRows: z.int().nullable(),
        links: z.object({ description: z.string(), rows: z.string() }),
      }),
    ),
  })
  .meta({ id: 'Tables' });

const value = z.unknown().meta({ description: "In the column's encoding; null for null." });

const totalKind = z.enum(['exact', 'estimate', 'none']);

const rows = z
  .object({
    table: z.string(),
    columns: z.array(z.string()),
    rows: z.array(z.union([z.record(z.string(), value), z.array(value)])),
    window: z.object({
      offset: z.int().nullable().meta({ description: 'Null beside a cursor.' }),
      limit: z.int(),
      rowCap: z.int().optional().meta({ description: 'Told when it lowered the limit.' }),
      count: z.int(),
      total: z.int().nullable(),
      totalKind,
      countedAt: z.string().optional().meta({
        description: 'When the rows were counted, where that was not for this very answer.',
      }),
    }),
    next: z.string().nullable().meta({ description: 'A cursor; null where the result ends.' }),
    previous: z.string().nullable().meta({ description: 'A cursor; null at the beginning.' }),
  })
  .meta({ id: 'Rows' });

const mileposts = z
  .object({
    table: z.string(),
    column: z.string().meta({ description: 'The leading column of the sort.' }),
    descending: z.boolean(),
    indexed: z.boolean().meta({ description: 'Whether an index leads with it.' }),
    state: z.enum(['ready', 'building', 'waiting', 'failed']),
    passed: z.int().meta({ description: 'Rows passed so far while the mileposts are set.' }),
    total: z.int().nullable(),
    totalKind,
    ticks: z.array(z.object({ offset: z.int(), value })),
  })
  .meta({ id: 'Mileposts' });

const result = z
  .looseObject({
    name: z.string(),
    label: z.string(),
    type: z.looseObject({ kind: z.string() }),
    encoding: z.enum(['number', 'string', 'boolean', 'json', 'array']),
  })
  .meta({ id: 'ResultColumn' });

const asOf = z.string().optional().meta({
  description: 'When the answer was made, where that was not for this very question.',
});

const lineWindow = z.object({
  offset: z.int().nullable().meta({ description: 'Null beside a cursor.' }),
  limit: z.int(),
  rowCap: z.int().optional(),
  count: z.int(),
  total: z.int().meta({ description: 'Lines of the level.' }),
  totalKind: z.literal('exact'),
  asOf,
});

const lineFilter = z.string().nullable().meta({
  description: 'CQL2 Text that selects the rows; null where the value has no spelling (NaN).',
});

const made = z.record(z.string(), value).meta({ description: 'By the names of the aggregates.' });

const groups = z
  .object({
    table: z.string(),
    depth: z.int().meta({ description: 'Which level, from 0.' }),
    levels: z.array(result),
    aggregates: z.array(result),
    groups: z.array(
      z.object({
        value,
        count: z.int().meta({ description: 'Rows.' }),
        below: z.int().nullable().meta({ description: 'Lines of the next level.' }),
        aggregates: made,
        filter: lineFilter,
        links: z.object({ rows: z.string().optional(), groups: z.string().optional() }),
      }),
    ),
    window: lineWindow,
    next: z.string().nullable(),
    previous: z.string().nullable(),
  })
  .meta({ id: 'Groups' });

const aggregates = z
  .object({ table: z.string(), aggregates: z.array(result), values: made, asOf })
  .meta({ id: 'Aggregates' });

const values = z
  .object({
    table: z.string(),
    column: result,
    values: z.array(z.object({ value, count: z.int(), filter: lineFilter })),
    range: z.object({ least: value, greatest: value }).nullable().optional(),
    histogram: z.array(z.object({ from: value, to: value, count: z.int() })).optional(),
    window: lineWindow,
    next: z.string().nullable(),
    previous: z.string().nullable(),
  })
  .meta({ id: 'Values' });

const row = z.object({ table: z.string(), row: z.record(z.string(), value) }).meta({ id: 'Row' });

const problemDocument = z
  .object({
    type: z.string(),
    title: z.string(),
    status: z.int(),
    detail: z.string(),
    requestId: z.string(),
    errors: z
      .array(
        z.object({
          code: z.string(),
          parameter: z.string().optional(),
          position: z
            .int()
            .optional()
            .meta({ description: 'In UTF-16 units of the decoded text.' }),
          length: z.int().optional(),
          message: z.string(),
          hint: z.string().optional(),
        }),
      )
      .optional(),
  })
  .meta({ id: 'Problem' });

const json = (schema: z.ZodType, description: string): ZodOpenApiResponseObject => ({
  description,
  content: { 'application/json': { schema } },
});

const refusals: ZodOpenApiResponsesObject = Object.fromEntries(
  Object.entries({
    400: 'The query cannot be answered as it stands.',
    404: 'There is no such table or row.',
    413: 'A parameter is too long.',
    503: 'The database is away or the service is full; Retry-After says when to come back.',
    504: 'The time limit was reached.',
  }).map(([status, text]) => [
    status,
    { description: text, content: { 'application/problem+json': { schema: problemDocument } } },
  ]),
);

const tableName = z.object({ table: z.string().meta({ description: 'A published name.' }) });

const rowAddress = tableName.extend({
  key: z
    .string()
    .meta({ description: 'The key; of several parts, each percent-encoded, by commas.' }),
});

function get(
  summary: string,
  answer: ZodOpenApiResponseObject,
  query: z.ZodObject,
  path?: z.ZodObject,
): ZodOpenApiPathItemObject {
  const requestParams = path === undefined ? { query } : { query, path };
  return { get: { summary, requestParams, responses: { ...refusals, 200: answer } } };
}

/** The same question in a URL and, where that is too short, in a body. */
function question(
  summary: string,
  answer: ZodOpenApiResponseObject,
  query: z.ZodObject,
  body: z.ZodObject,
  path: z.ZodObject,
): ZodOpenApiPathItemObject {
  return { ...get(summary, answer, query, path), ...post(summary, answer, body, path) };
}

function post(
  summary: string,
  answer: ZodOpenApiResponseObject,
  body: z.ZodObject,
  path: z.ZodObject,
): ZodOpenApiPathItemObject {
  return {
    post: {
      summary: `${summary}, asked for by a body where a URL is too short`,
      requestParams: { path },
      requestBody: { content: { 'application/json': { schema: body } } },
      responses: { ...refusals, 200: answer },
    },
  };
}

/** OpenAPI 3.1 of the service, from the same schemas that check its requests. */
export function openApiDocument(version: string): object {
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Ephoros',
      version,
      description: 'Rows of large tables by page, offset, sort and filter, through the URL.',
    },
    servers: [{ url: '/api' }],
    paths: {
      '/tables': get('The published tables', json(tables, 'The tables'), noParameters),
      '/tables/{table}': get(
        'The description of a table',
        json(description, 'The description'),
        noParameters,
        tableName,
      ),
      '/tables/{table}/rows': get(
        'Rows of a table',
        json(rows, 'A window of rows'),
        rowsParameters,
        tableName,
      ),
      '/tables/{table}/mileposts': get(
        'The leading sort values at even positions of a result',
        json(mileposts, 'The mileposts, as far as they are set'),
        milepostParameters,
        tableName,
      ),
      '/tables/{table}/query': post(
        'Rows of a table',
        json(rows, 'A window of rows'),
        bodies.rows,
        tableName,
      ),
      '/tables/{table}/groups': question(
        'The lines of one level of a grouping',
        json(groups, 'A window of lines'),
        groupsParameters,
        bodies.groups,
        tableName,
      ),
      '/tables/{table}/aggregates': question(
        'Aggregates of a whole result',
        json(aggregates, 'The aggregates'),
        aggregatesParameters,
        bodies.aggregates,
        tableName,
      ),
      '/tables/{table}/values/{column}': question(
        'The values of a column under a query, without its own condition',
        json(values, 'A window of values, their range and their histogram'),
        valuesParameters,
        bodies.values,
        tableName.extend({
          column: z.string().meta({ description: 'A column, or a path to a related one.' }),
        }),
      ),
      '/tables/{table}/rows/{key}': get(
        'One row by its key',
        json(row, 'The row'),
        rowParameters,
        rowAddress,
      ),
    },
  });
}
