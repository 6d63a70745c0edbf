import {
  adviceAnswer,
  aggregatesAnswer,
  callerAnswer,
  descriptionAnswer,
  fileProgress,
  groupsAnswer,
  liveEvents,
  milepostsAnswer,
  simulationAnswer,
  writtenAnswer,
  rowAnswer,
  rowsAnswer,
  selectionAnswer,
  tablesAnswer,
  valuesAnswer,
} from '@ephoros/core/answer';
import { changesAnswer, changeSetBody, historyAnswer } from '@ephoros/core/change';
import { newViewBody, viewAnswer, viewChangeBody, viewsAnswer } from '@ephoros/core/view';
import { z } from 'zod';
import {
  createDocument,
  type ZodOpenApiOperationObject,
  type ZodOpenApiPathItemObject,
  type ZodOpenApiResponseObject,
  type ZodOpenApiResponsesObject,
} from 'zod-openapi';
import {
  aggregatesParameters,
  exportParameters,
  groupsParameters,
  historyParameters,
  liveParameters,
  milepostParameters,
  noParameters,
  rowParameters,
  rowsParameters,
  savingParameters,
  valuesParameters,
  viewsParameters,
} from '../query/index.ts';
import { bodies } from './body.ts';
import { exportedFile, json, refusals, refused, stillRunning } from './openapi-answers.ts';
import { selectionBodies } from './selection-body.ts';

const tableName = z.object({ table: z.string().meta({ description: 'A published name.' }) });

const rowAddress = tableName.extend({
  key: z
    .string()
    .meta({ description: 'The key; of several parts, each percent-encoded, by commas.' }),
});

const changeSetId = z.object({ id: z.string().meta({ description: 'Of a saved set.' }) });

const savingHeaders = z.object({
  'Idempotency-Key': z.string().max(200).optional().meta({
    description: 'A set that is sent again under its key is saved once, and answered the same.',
  }),
});

const unsaved = refused({
  409: 'Rows are not as they were seen. Nothing was saved; `outcomes` has them as they are now.',
  422: 'Something is refused, each mistake with its change and column. Nothing was saved.',
});

const refusedViews = refused({
  403: 'It is not yours to change.',
  409: 'You have a view of the table by this name already.',
  412: 'It was changed meanwhile: it no longer has the version that If-Match names.',
  428: 'If-Match is missing.',
});

const viewId = z.object({ id: z.string().meta({ description: 'As it was answered.' }) });

function ifMatch(needed: boolean): z.ZodObject {
  const version = z.string().meta({
    description: 'The version that it still must have, in quotes; `*` for any.',
    example: '"3"',
  });
  return z.object({ 'If-Match': needed ? version : version.optional() });
}

/** A set of changes, or what takes one back. */
function saving(
  operationId: string,
  summary: string,
  path?: z.ZodObject,
  body: z.ZodObject = changeSetBody,
): ZodOpenApiPathItemObject {
  return {
    post: {
      operationId,
      summary,
      requestParams: { query: savingParameters, header: savingHeaders, ...(path && { path }) },
      requestBody: { content: { 'application/json': { schema: body } } },
      responses: { ...refusals, ...unsaved, 200: json(changesAnswer, 'It is saved, or was tried') },
    },
  };
}

const selectionId = z.object({ id: z.string().meta({ description: 'As it was answered.' }) });

function get(
  operationId: string,
  summary: string,
  answer: ZodOpenApiResponseObject,
  query: z.ZodObject,
  path?: z.ZodObject,
): ZodOpenApiPathItemObject {
  const requestParams = path === undefined ? { query } : { query, path };
  return { get: { operationId, summary, requestParams, responses: responsesOf(answer) } };
}

function responsesOf(answer: ZodOpenApiResponseObject): ZodOpenApiResponsesObject {
  const unchanged = { description: 'The same as If-None-Match names: nothing more is said.' };
  return { ...refusals, 200: answer, 304: unchanged };
}

const preferHeader = z.object({
  Prefer: z.string().optional().meta({
    description:
      'How long to wait (RFC 7240): `wait=N` in seconds, and `respond-async` for 202 with the progress after it. By default a request waits for its answer.',
    example: 'respond-async, wait=5',
  }),
});

/** Operations whose query may go on behind the request. */
function deferrable(operations: ZodOpenApiPathItemObject): ZodOpenApiPathItemObject {
  return Object.fromEntries(
    Object.entries(operations as Record<string, ZodOpenApiOperationObject>).map(
      ([method, operation]) => [
        method,
        {
          ...operation,
          requestParams: { ...operation.requestParams, header: preferHeader },
          responses: { ...operation.responses, 202: stillRunning },
        },
      ],
    ),
  );
}

/** The same question in a URL and, where that is too short, in a body. */
function readOperation(
  about: string,
  summary: string,
  answer: ZodOpenApiResponseObject,
  query: z.ZodObject,
  body: z.ZodObject,
  path: z.ZodObject,
): ZodOpenApiPathItemObject {
  return {
    ...get(`read${about}`, summary, answer, query, path),
    ...post(`query${about}`, summary, answer, body, path),
  };
}

function post(
  operationId: string,
  summary: string,
  answer: ZodOpenApiResponseObject,
  body: z.ZodObject,
  path: z.ZodObject,
): ZodOpenApiPathItemObject {
  return {
    post: {
      operationId,
      summary: `${summary}, asked for by a body where a URL is too short`,
      requestParams: { path },
      requestBody: { content: { 'application/json': { schema: body } } },
      responses: responsesOf(answer),
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
      '/tables': get(
        'listTables',
        'The published tables',
        json(tablesAnswer, 'The tables'),
        noParameters,
      ),
      '/caller': get(
        'readCaller',
        'Who asks, and what they may do apart from reading',
        json(callerAnswer, 'The caller'),
        noParameters,
      ),
      '/simulation': get(
        'readSimulation',
        'Whether slowness and failures can be asked for, and those that there are',
        json(simulationAnswer, 'What is simulated'),
        noParameters,
      ),
      '/tables/{table}': get(
        'describeTable',
        'The description of a table',
        json(descriptionAnswer, 'The description'),
        noParameters,
        tableName,
      ),
      '/tables/{table}/live': get(
        'watchRows',
        'What others write, as server-sent events: `grade`, `changed`, `written`',
        {
          description: 'The events, for as long as somebody listens',
          content: {
            'text/event-stream': {
              schema: z.union(Object.values(liveEvents)),
            },
          },
        },
        liveParameters,
        tableName,
      ),
      '/tables/{table}/rows': deferrable(
        get(
          'readRows',
          'Rows of a table',
          json(rowsAnswer, 'A window of rows'),
          rowsParameters,
          tableName,
        ),
      ),
      '/tables/{table}/mileposts': get(
        'readMileposts',
        'The leading sort values at even positions of a result',
        json(milepostsAnswer, 'The mileposts, as far as they are set'),
        milepostParameters,
        tableName,
      ),
      '/tables/{table}/query': deferrable(
        post(
          'queryRows',
          'Rows of a table',
          json(rowsAnswer, 'A window of rows'),
          bodies.rows,
          tableName,
        ),
      ),
      '/tables/{table}/export': readOperation(
        'Export',
        'All rows of a question as a file',
        exportedFile,
        exportParameters,
        bodies.export,
        tableName,
      ),
      '/exports/{ticket}': get(
        'fileProgress',
        'How far a file is that is taken out',
        json(fileProgress, 'How far it is'),
        noParameters,
        z.object({ ticket: z.string().meta({ description: 'As it was asked for with.' }) }),
      ),
      '/tables/{table}/advice': readOperation(
        'Advice',
        'Which indexes a question about rows would want',
        json(adviceAnswer, 'The indexes, and which of them there are'),
        rowsParameters,
        bodies.rows,
        tableName,
      ),
      '/tables/{table}/written': readOperation(
        'Written',
        'Whether anything was written to what a question about rows reads',
        json(writtenAnswer, 'A mark, to be compared with a later one'),
        rowsParameters,
        bodies.rows,
        tableName,
      ),
      '/tables/{table}/groups': deferrable(
        readOperation(
          'Groups',
          'The lines of one level of a grouping',
          json(groupsAnswer, 'A window of lines'),
          groupsParameters,
          bodies.groups,
          tableName,
        ),
      ),
      '/tables/{table}/aggregates': deferrable(
        readOperation(
          'Aggregates',
          'Aggregates of a whole result',
          json(aggregatesAnswer, 'The aggregates'),
          aggregatesParameters,
          bodies.aggregates,
          tableName,
        ),
      ),
      '/tables/{table}/values/{column}': deferrable(
        readOperation(
          'Values',
          'The values of a column under a query, without its own condition',
          json(valuesAnswer, 'A window of values, their range and their histogram'),
          valuesParameters,
          bodies.values,
          tableName.extend({
            column: z.string().meta({ description: 'A column, or a path to a related one.' }),
          }),
        ),
      ),
      '/selections': {
        post: {
          operationId: 'makeSelection',
          summary: "Keeps a selection; a question names it as SELECTED('stored:…')",
          requestBody: { content: { 'application/json': { schema: selectionBodies.wanted } } },
          responses: { ...refusals, 201: json(selectionAnswer, 'The selection') },
        },
      },
      '/queries/{id}': {
        get: {
          operationId: 'readRunningQuery',
          summary: 'The answer of a query that outlasted its request, or its progress',
          requestParams: {
            path: z.object({ id: z.string().meta({ description: 'As Location has it.' }) }),
            header: preferHeader,
          },
          responses: {
            ...responsesOf(
              json(
                z.union([rowsAnswer, groupsAnswer, aggregatesAnswer, valuesAnswer]),
                'The answer of the query',
              ),
            ),
            202: stillRunning,
          },
        },
        delete: {
          operationId: 'cancelRunningQuery',
          summary: 'Cancels a query that outlasted its request, unless others wait for it',
          requestParams: {
            path: z.object({ id: z.string().meta({ description: 'As Location has it.' }) }),
          },
          responses: { ...refusals, 204: { description: 'It is cancelled.' } },
        },
      },
      '/selections/{id}': {
        get: {
          operationId: 'readSelection',
          summary: 'A stored selection, counted',
          requestParams: { path: selectionId },
          responses: responsesOf(json(selectionAnswer, 'The selection')),
        },
        patch: {
          operationId: 'changeSelection',
          summary: 'Adds rows to a stored selection, and removes rows from it',
          requestParams: { path: selectionId },
          requestBody: { content: { 'application/json': { schema: selectionBodies.change } } },
          responses: { ...refusals, 200: json(selectionAnswer, 'The selection') },
        },
        delete: {
          operationId: 'dropSelection',
          summary: 'Drops a kept selection',
          requestParams: { path: selectionId },
          responses: { ...refusals, 204: { description: 'It is dropped.' } },
        },
      },
      '/views': {
        ...get(
          'listViews',
          'Saved views that you see: your own and those that are shared',
          json(viewsAnswer, 'The views by name'),
          viewsParameters,
        ),
        post: {
          operationId: 'keepView',
          summary: 'Keeps a view under a name',
          requestBody: { content: { 'application/json': { schema: newViewBody } } },
          responses: { ...refusals, ...refusedViews, 201: json(viewAnswer, 'The view') },
        },
      },
      '/views/{id}': {
        get: {
          operationId: 'readView',
          summary: 'A kept view, with what of it its table still has',
          requestParams: { path: viewId },
          responses: responsesOf(json(viewAnswer, 'The view; its ETag begins with its version')),
        },
        patch: {
          operationId: 'changeView',
          summary: 'Changes a kept view, where it still is as it was read',
          requestParams: { path: viewId, header: ifMatch(true) },
          requestBody: { content: { 'application/json': { schema: viewChangeBody } } },
          responses: { ...refusals, ...refusedViews, 200: json(viewAnswer, 'The view') },
        },
        delete: {
          operationId: 'dropView',
          summary: 'Drops a kept view',
          requestParams: { path: viewId, header: ifMatch(false) },
          responses: { ...refusals, ...refusedViews, 204: { description: 'It is dropped.' } },
        },
      },
      '/tables/{table}/changes': saving('saveChanges', 'Saves changes of a table', tableName),
      '/changes': {
        ...saving('saveChangesOfTables', 'Saves changes of several tables'),
        delete: {
          operationId: 'withdrawChanges',
          summary: 'Withdraws a request by its Idempotency-Key: it is never saved from then on',
          requestParams: {
            header: z.object({
              'Idempotency-Key': z.string().meta({ description: 'The key of the request.' }),
            }),
          },
          responses: {
            ...refusals,
            ...refused({ 422: 'The service changes nothing here.' }),
            200: json(
              z.object({ saved: changesAnswer.nullable() }),
              'The answer where the request was saved before, else null',
            ),
          },
        },
      },
      '/changes/{id}/undo': saving(
        'undoChanges',
        'Takes a saved set back, by a set of its own',
        changeSetId,
        z.object({}),
      ),
      '/tables/{table}/history': get(
        'readTableHistory',
        'What was changed of a table',
        json(historyAnswer, 'The history'),
        historyParameters,
        tableName,
      ),
      '/tables/{table}/rows/{key}/history': get(
        'readRowHistory',
        'What was changed of a row',
        json(historyAnswer, 'The history'),
        historyParameters,
        rowAddress,
      ),
      '/tables/{table}/rows/{key}': get(
        'readRow',
        'One row by its key',
        json(rowAnswer, 'The row'),
        rowParameters,
        rowAddress,
      ),
    },
  });
}
