import { progress } from '@ephoros/core/answer';
import { z } from 'zod';
import type { ZodOpenApiResponseObject, ZodOpenApiResponsesObject } from 'zod-openapi';
import { exportFormats } from '../export/index.ts';

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
    progress: progress.optional(),
  })
  .meta({ id: 'Problem' });

/** An answer in JSON. */
export const json = (schema: z.ZodType, description: string): ZodOpenApiResponseObject => ({
  description,
  content: { 'application/json': { schema } },
});

/** A query that goes on behind its request. */
export const stillRunning: ZodOpenApiResponseObject = {
  description: 'The query is still running, and the caller prefers respond-async (RFC 7240).',
  headers: {
    Location: { description: 'Where its answer will be.', schema: { type: 'string' } },
    'Retry-After': {
      description: 'Seconds until the next request is useful.',
      schema: { type: 'integer' },
    },
    'Preference-Applied': {
      description: 'The preferences that the service followed.',
      schema: { type: 'string' },
    },
  },
  content: {
    'application/json': {
      schema: z.object({ status: z.literal('running'), progress }).meta({ id: 'Running' }),
    },
  },
};

/** Rows as a file. */
export const exportedFile: ZodOpenApiResponseObject = {
  description:
    'The file, in pieces; the trailer Ephoros-Rows-Sent tells how many rows it has. One that is broken off is not whole.',
  headers: {
    'Ephoros-Rows': {
      description: 'How many rows it will have, where that is known before.',
      schema: { type: 'integer' },
    },
    'Ephoros-Rows-About': {
      description: 'The same as the planner guesses it, where that alone is known.',
      schema: { type: 'integer' },
    },
  },
  content: Object.fromEntries(
    Object.values(exportFormats).map(({ mediaType }) => [
      mediaType,
      { schema: { type: 'string', format: 'binary' } },
    ]),
  ),
};

/** What may come of every request instead of an answer. */
export const refusals: ZodOpenApiResponsesObject = refused({
  400: 'The query cannot be answered as it stands.',
  401: 'Nobody has signed in: the rules of access know no such caller.',
  403: 'The caller may not do this, or a page of another origin has had a browser ask.',
  404: 'There is no such table, row or record.',
  405: 'There is something at this path, but not for this method; Allow says for which.',
  413: 'A parameter, a body or an answer is too long.',
  415: 'A body is no JSON.',
  429: 'The caller, or its address, asks too much; Retry-After says when to come back.',
  421: 'The service is not asked by this host name.',
  500: 'The service has failed; its log says more under the request id.',
  503: 'The database is unavailable, or the service is busy; Retry-After says when to come back.',
  507: 'The database has too little space for the query.',
  504: 'The query took longer than the time limit, or than the wait of the request (`progress`).',
});

/** Answers that are problems, by their status. */
export function refused(texts: Readonly<Record<number, string>>): ZodOpenApiResponsesObject {
  return Object.fromEntries(
    Object.entries(texts).map(([status, text]) => [
      status,
      { description: text, content: { 'application/problem+json': { schema: problemDocument } } },
    ]),
  );
}
