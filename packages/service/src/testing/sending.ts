/** What a request came to. */
export interface Answered {
  readonly status: number;
  readonly headers: Headers;
  readonly body: any;
}

export interface Sending {
  readonly type?: string;
  readonly headers?: Record<string, string>;
}

/** Sends a request, its body as JSON where it is no text. */
export async function sendTo(
  method: string,
  url: string,
  body?: unknown,
  { type = 'application/json', headers = {} }: Sending = {},
): Promise<Answered> {
  const response = await fetch(url, {
    method,
    headers: { ...(body === undefined ? {} : { 'Content-Type': type }), ...headers },
    ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
  });
  const text = await response.text();
  return {
    status: response.status,
    headers: response.headers,
    body: text === '' ? '' : JSON.parse(text),
  };
}

/** The errors of an answer: parameter and code of each. */
export function codesIn({ body }: Answered): string[] {
  return body.errors.map(({ code, parameter }: any) => `${parameter ?? ''} ${code}`.trim());
}
