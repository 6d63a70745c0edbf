import type { ServerResponse } from 'node:http';
import type { TableAnswers } from '../engine/index.ts';
import type { Parameters } from '../question/index.ts';
import { HttpRefusal } from './refusals.ts';

/** Ms between two signs of life, so that nobody on the way takes the connection for dead. */
const heartbeat = 15_000;
/** Ms between two looks whether the caller is known still. */
const known = 5_000;
/** Bytes that wait for a reader at most: who is slower asks anew. */
const mostWaiting = 256 * 1024;
/** Who watches in one process at most. */
const mostWatchers = 5_000;

let watching = 0;

/** There is no room for another watcher. */
function tooMany(): HttpRefusal {
  return new HttpRefusal({
    slug: 'service-full',
    status: 503,
    title: 'Too many are watching',
    detail: 'As many are watching as the service has room for. Ask again later.',
    retryAfter: 30,
  });
}

/**
 * Tells what others write as server-sent events (HTML standard, 9.2), for as long as the caller stays, and is known.
 * @throws Refused, HttpRefusal, Failure before anything is sent
 */
export async function answerLive(
  table: TableAnswers,
  given: Parameters,
  response: ServerResponse,
  isKnown: () => Promise<boolean>,
): Promise<void> {
  if (watching >= mostWatchers) throw tooMany();
  const isOver = (): boolean => response.destroyed || response.writableEnded;
  const send = (event: string, data: unknown): void => {
    if (isOver()) return;
    if (!response.headersSent) {
      response.writeHead(200, {
        'Content-Type': 'text/event-stream; charset=utf-8',
        'Cache-Control': 'no-store, no-transform',
        'X-Accel-Buffering': 'no',
      });
    }
    response.write(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
    if (response.writableLength > mostWaiting) response.destroy();
  };
  watching += 1;
  const timers: NodeJS.Timeout[] = [];
  let leave: () => void = () => undefined;
  const closed = new Promise<void>((resolve) => response.once('close', resolve));
  try {
    leave = await table.watch(given, {
      grade: (grade) => send('grade', { grade }),
      changed: (changes) => send('changed', changes),
      written: () => send('written', {}),
      end: () => response.end(),
    });
    timers.push(
      setInterval(() => {
        if (!isOver()) response.write(': still here\n\n');
      }, heartbeat),
    );
    timers.push(
      setInterval(() => {
        isKnown().then(
          (still) => {
            if (!still) response.end();
          },
          () => response.end(),
        );
      }, known),
    );
    await closed;
  } finally {
    for (const timer of timers) clearInterval(timer);
    leave();
    watching -= 1;
  }
}
