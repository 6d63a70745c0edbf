import type { LoggedRequest } from '@ephoros/client';

type Request = Pick<LoggedRequest, 'method' | 'address' | 'body'>;

/** A request as a command for a terminal; `here` is where the page is. */
export function curlOf({ method, address, body }: Request, here: string): string {
  const parts = ['curl --fail-with-body --silent --show-error'];
  if (method !== 'GET' && !(method === 'POST' && body !== undefined)) parts.push(`-X ${method}`);
  parts.push(shellWord(new URL(address, here).href));
  if (body !== undefined) {
    parts.push("-H 'Content-Type: application/json'", `--data-raw ${shellWord(body)}`);
  }
  return parts.join(' \\\n  ');
}

/** A request as a program makes it. */
export function codeOf({ method, address, body }: Request, here: string): string {
  const to = JSON.stringify(new URL(address, here).href);
  const options = [
    ...(method === 'GET' ? [] : [`  method: ${JSON.stringify(method)},`]),
    ...(body === undefined
      ? []
      : ["  headers: { 'Content-Type': 'application/json' },", `  body: ${JSON.stringify(body)},`]),
  ];
  const given = options.length === 0 ? '' : `, {\n${options.join('\n')}\n}`;
  return [
    `const response = await fetch(${to}${given});`,
    'if (!response.ok) throw new Error((await response.json()).detail);',
    'const answer = await response.json();',
  ].join('\n');
}

/** A text as one word of a shell. */
function shellWord(text: string): string {
  return `'${text.replaceAll("'", "'\\''")}'`;
}

/** An address as people read it. */
export function decoded(address: string): string {
  try {
    return decodeURIComponent(address.replaceAll('+', ' '));
  } catch {
    return address;
  }
}
