import { ServiceError, type RowsAnswer } from '@ephoros/client';

/** Query parameters as they were typed; those not given are undefined. */
export type TypedParameters = Readonly<Record<string, string | undefined>>;

/** An answer that is none, with the parameters that it speaks of. */
export class RowsError extends Error {
  readonly error: ServiceError;
  readonly parameters: TypedParameters;

  constructor(error: ServiceError, parameters: TypedParameters) {
    super(error.message);
    this.name = 'RowsError';
    this.error = error;
    this.parameters = parameters;
  }
}

/**
 * Asks for rows with parameters as they were typed, so that the service reads and refuses them
 * in their own spelling. `text` is the answer as it came. @throws RowsError
 */
export async function askRows(
  url: string,
  table: string,
  parameters: TypedParameters,
): Promise<{ answer: RowsAnswer; text: string }> {
  const pairs = Object.entries(parameters).flatMap(([name, text]) =>
    text === undefined ? [] : [`${name}=${encodeURIComponent(text)}`],
  );
  const address = `${url.replace(/\/$/, '')}/api/tables/${encodeURIComponent(table)}/rows`;
  let response: Response;
  try {
    const search = pairs.length === 0 ? '' : `?${pairs.join('&')}`;
    // What is too long for a URL goes into a body.
    response =
      search.length <= 4_000
        ? await fetch(address + search)
        : await fetch(address.replace(/rows$/, 'query'), {
            method: 'POST',
            body: JSON.stringify({ ...parameters, ...explained(parameters) }),
          });
  } catch (cause) {
    const error = new ServiceError('away', `No service answers at ${url}.`, { cause });
    throw new RowsError(error, parameters);
  }
  if (!response.ok) throw new RowsError(await ServiceError.from(response), parameters);
  const text = await response.text();
  return { answer: JSON.parse(text) as RowsAnswer, text };
}

/** In a body, explain is no text. */
function explained({ explain }: TypedParameters): { explain?: boolean } {
  return explain === undefined ? {} : { explain: explain === 'true' };
}
