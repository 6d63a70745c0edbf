import { randomUUID } from 'node:crypto';
import { STATUS_CODES } from 'node:http';
import type { Duplex } from 'node:stream';
import type { ProblemDocument } from './problems.ts';

/** Answers what is no HTTP, or too long a request, before it can reach the application. */
export function refuseUnreadable(error: NodeJS.ErrnoException, socket: Duplex): void {
  if (error.code === 'ECONNRESET' || !socket.writable) return;
  const tooLong = error.code === 'HPE_HEADER_OVERFLOW';
  const status = tooLong ? 431 : 400;
  const body: ProblemDocument = {
    type: `urn:ephoros:problem:${tooLong ? 'too-large' : 'bad-query'}`,
    title: tooLong ? 'The request is too long' : 'The request is not HTTP',
    status,
    detail: tooLong
      ? 'The address and the headers are longer than the service reads. Ask a shorter question.'
      : 'The request could not be read.',
    requestId: randomUUID(),
  };
  const text = JSON.stringify(body);
  const head = [
    `HTTP/1.1 ${status} ${STATUS_CODES[status] ?? ''}`,
    'Connection: close',
    'Content-Type: application/problem+json',
    `Content-Length: ${Buffer.byteLength(text)}`,
  ];
  socket.end(`${head.join('\r\n')}\r\n\r\n${text}`);
}
