import type { LoggedRequest } from '@ephoros/client';
import { quoted, shellText } from './code-text.ts';

type Request = Pick<LoggedRequest, 'method' | 'address' | 'body'>;

/** A request as a command for a terminal; `here` is where the page is. */
export function curlOf({ method, address, body }: Request, here: string): string {
  const parts = ['curl --fail-with-body --silent --show-error'];
  if (method !== 'GET' && !(method === 'POST' && body !== undefined)) {
    parts.push(`--request ${method}`);
  }
  if (body !== undefined) {
    parts.push("--header 'Content-Type: application/json'", `--data ${shellText(body)}`);
  }
  return [...parts, shellText(new URL(address, here).href)].join(' \\\n  ');
}

/** A request as a program makes it. */
export function codeOf({ method, address, body }: Request, here: string): string {
  const options = [
    ...(method === 'GET' ? [] : [`  method: ${quoted(method)},`]),
    ...(body === undefined
      ? []
      : ["  headers: { 'Content-Type': 'application/json' },", `  body: ${quoted(body)},`]),
  ];
  const given = options.length === 0 ? '' : `, {\n${options.join('\n')}\n}`;
  return `const response = await fetch(${quoted(new URL(address, here).href)}${given});
const answer = await response.json();
if (!response.ok) throw new Error(answer.detail);
`;
}

/** An address as people read it. */
export function decoded(address: string): string {
  try {
    return decodeURIComponent(address.replaceAll('+', ' '));
  } catch {
    return address;
  }
}
