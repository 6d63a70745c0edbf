import type { ServiceError } from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import stringWidth from 'string-width';
import type { TypedParameters } from '../request.ts';
import { lines, plain } from './plain.ts';

/** Says why there is no answer; each error of a query with a caret under its place. */
export function explainRefusal(
  { kind, message, problems, requestId }: ServiceError,
  parameters: TypedParameters = {},
): string {
  if (problems.length > 0) {
    return `ephoros: the service refused the query\n${problems
      .map((problem) => explainProblem(problem, parameters))
      .join('')}`;
  }
  const id = kind === 'failed' && requestId !== undefined ? ` (request ${plain(requestId)})` : '';
  return `ephoros: ${lines(message)}${id}\n`;
}

function explainProblem(
  { parameter, position, length = 0, message, hint }: Problem,
  parameters: TypedParameters,
): string {
  const written = `  ${plain(message)}${hint === undefined ? '' : ` ${plain(hint)}`}\n`;
  const text = parameter === undefined ? undefined : parameters[parameter];
  if (parameter === undefined || text === undefined || position === undefined) return written;
  // On one line, so that the caret stands under its place.
  const line = plain(text.replace(/\s/g, ' '));
  const lead = `  --${parameter} `;
  const before = ' '.repeat(stringWidth(lead + line.slice(0, position)));
  const carets = '^'.repeat(Math.max(1, stringWidth(line.slice(position, position + length))));
  return `${lead}${line}\n${before}${carets}\n${written}`;
}
