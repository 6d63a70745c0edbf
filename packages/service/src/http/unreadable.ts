import { randomUUID } from 'node:crypto';
import { STATUS_CODES } from 'node:http';
import type { Duplex } from 'node:stream';
import type { ProblemDocument } from './problems.ts';

type Kind = Pick<ProblemDocument, 'status' | 'title' | 'detail'> & { readonly slug: string };

const noHttp: Kind = {
  slug: 'bad-query',
  status: 400,
  title: 'The request is not HTTP',
  detail: 'The request could not be read.',
};

/** By what Node says of it. */
const kinds: ReadonlyMap<string, Kind> = new Map([
  [
    'HPE_HEADER_OVERFLOW',
    {
      slug: 'too-large',
      status: 431,
      title: 'The request is too long',
      detail:
        'The address and the headers are longer than the service reads. Ask a shorter question.',
    },
  ],
  [
    'ERR_HTTP_REQUEST_TIMEOUT',
    {
      slug: 'too-slow',
      status: 408,
      title: 'The request did not come to an end',
      detail: 'The request did not come whole within the time for that.',
    },
  ],
]);

/** Answers what is no HTTP, or too long a request, before it can reach the application. */
export function refuseUnreadable(error: NodeJS.ErrnoException, socket: Duplex): void {
  if (error.code === 'ECONNRESET' || !socket.writable) return;
  const { status, slug, title, detail } = kinds.get(error.code ?? '') ?? noHttp;
  const type = `urn:ephoros:problem:${slug}`;
  const body: ProblemDocument = { type, title, status, detail, requestId: randomUUID() };
  const text = JSON.stringify(body);
  const head = [
    `HTTP/1.1 ${status} ${STATUS_CODES[status] ?? ''}`,
    'Connection: close',
    'Content-Type: application/problem+json',
    `Content-Length: ${Buffer.byteLength(text)}`,
  ];
  socket.end(`${head.join('\r\n')}\r\n\r\n${text}`);
}
