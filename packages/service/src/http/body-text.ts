import type { ServerResponse } from 'node:http';
import express from 'express';
import type { ApiRequest } from './exchange.ts';
import { notJson } from './refusals.ts';

type ReadText = (
  request: ApiRequest,
  response: ServerResponse,
  next: (error?: unknown) => void,
) => void;

/** Of at most so many bytes. */
const textReader = (limit: number): ReadText => express.text({ type: () => true, limit });

const readQueryOptions = textReader(1024 * 1024);
/** Before anybody is known. */
const readSmall = textReader(64 * 1024);
/** A selection may hold a million keys. */
const readSelection = textReader(64 * 1024 * 1024);

/** A body's text, also where the application around has read it as JSON already. */
export async function textOf(
  request: ApiRequest,
  response: ServerResponse,
  readText = readQueryOptions,
): Promise<string> {
  if (request.body === undefined) {
    await new Promise<void>((resolve, reject) => {
      readText(request, response, (error) => {
        if (error === undefined || error === null) resolve();
        // eslint-disable-next-line @typescript-eslint/prefer-promise-reject-errors -- as it came
        else reject(error);
      });
    });
  }
  const { body } = request;
  if (typeof body === 'string') return body;
  return body === undefined ? '' : JSON.stringify(body);
}

/**
 * A body that changes something: it says that it is JSON, as no form of a page elsewhere can have a
 * browser say it. @throws HttpRefusal
 */
export async function jsonOf(
  request: ApiRequest,
  response: ServerResponse,
  readText = readSelection,
): Promise<string> {
  const type = request.headers['content-type'] ?? '';
  if (!/^application\/(?:[\w.-]+\+)?json\s*(?:;|$)/i.test(type)) throw notJson();
  return textOf(request, response, readText);
}

/** The same of 64 KB at most, for callers who are not known yet. @throws HttpRefusal */
export function smallJsonOf(request: ApiRequest, response: ServerResponse): Promise<string> {
  return jsonOf(request, response, readSmall);
}
