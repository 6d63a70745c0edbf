import { ServiceError } from '@ephoros/client';

/** Query parameters as they were typed; those not given are undefined. */
export type TypedParameters = Readonly<Record<string, string | undefined>>;

/** A refused question, with the parameters that the refusal speaks of. */
export class QuestionError extends Error {
  readonly error: ServiceError;
  readonly parameters: TypedParameters;

  constructor(error: ServiceError, parameters: TypedParameters) {
    super(error.message);
    this.name = 'QuestionError';
    this.error = error;
    this.parameters = parameters;
  }
}

/** What is asked of a table: its rows, groups, aggregates, or the values of a column. */
export type Question = 'rows' | 'groups' | 'aggregates' | `values/${string}`;

/** Where the API is: a service has it under /api, a router where it is mounted. */
export function apiAt(url: string): string {
  const plain = url.replace(/\/$/, '');
  return /^[a-z]+:\/\/[^/]+$/i.test(plain) ? `${plain}/api` : plain;
}

/** Characters of the parameters in a URL; what is longer goes into a body. */
const mostSearch = 4_000;

/**
 * Asks about a table with parameters as they were typed, so that the service reads and refuses
 * them in their own spelling. `text` is the answer as it came. @throws QuestionError
 */
export async function ask(
  url: string,
  table: string,
  question: Question,
  parameters: TypedParameters,
): Promise<{ answer: unknown; text: string }> {
  const pairs = Object.entries(parameters).flatMap(([name, text]) =>
    text === undefined ? [] : [`${name}=${encodeURIComponent(text)}`],
  );
  const base = `${apiAt(url)}/tables/${encodeURIComponent(table)}`;
  const search = pairs.length === 0 ? '' : `?${pairs.join('&')}`;
  let response: Response;
  try {
    response =
      search.length <= mostSearch
        ? await fetch(`${base}/${question}${search}`)
        : await fetch(`${base}/${question === 'rows' ? 'query' : question}`, {
            method: 'POST',
            body: JSON.stringify({ ...parameters, ...explained(parameters) }),
          });
  } catch (cause) {
    const error = new ServiceError('away', `No service answers at ${url}.`, { cause });
    throw new QuestionError(error, parameters);
  }
  if (!response.ok) throw new QuestionError(await ServiceError.from(response), parameters);
  const text = await response.text();
  return { answer: JSON.parse(text) as unknown, text };
}

/** In a body, explain is no text. */
function explained({ explain }: TypedParameters): { explain?: boolean } {
  return explain === undefined ? {} : { explain: explain === 'true' };
}
