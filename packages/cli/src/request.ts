import { askInText, ServiceError, type ClientOptions, type TextQuestion } from '@ephoros/client';

/** Whom a command asks, as its options say. */
export interface Asked {
  readonly url: string;
  /** Headers of each request. */
  readonly header: Readonly<Record<string, string>>;
}

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

/** The same as a client takes it. */
export function addressed({ url, header }: Asked): ClientOptions {
  return { url: apiAt(url), headers: header };
}

/** Where the API is: a service has it under /api, a router where it is mounted. */
function apiAt(url: string): string {
  const plain = url.replace(/\/$/, '');
  return /^[a-z]+:\/\/[^/]+$/i.test(plain) ? `${plain}/api` : plain;
}

/**
 * Asks about a table with parameters as they were typed. `text` is the answer as it came.
 * @throws QuestionError
 */
export async function ask(
  asked: Asked,
  table: string,
  question: TextQuestion,
  parameters: TypedParameters,
): Promise<{ readonly answer: unknown; readonly text: string }> {
  try {
    return await askInText(addressed(asked), table, question, parameters);
  } catch (thrown) {
    if (!(thrown instanceof ServiceError)) throw thrown;
    const error =
      thrown.kind === 'away' && thrown.status === undefined
        ? new ServiceError('away', `No service answers at ${asked.url}.`, { cause: thrown })
        : thrown;
    throw new QuestionError(error, parameters);
  }
}
