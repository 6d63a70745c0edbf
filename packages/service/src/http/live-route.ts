import type { ServerResponse } from 'node:http';
import type { TableAnswers } from '../engine/index.ts';
import type { Parameters } from '../query/index.ts';
import { HttpRefusal } from './refusals.ts';

/** Ms between two signs of life, so that nobody on the way takes the connection for dead. */
const heartbeat = 15_000;
/** Ms between two looks whether the caller is known still. */
const known = 5_000;
/** Bytes that wait for a reader at most: who is slower asks again. */
const mostWaiting = 256 * 1024;
/** Who watches in one process at most. */
const mostWatchers = 5_000;

/** Of one caller, where nothing else is stated; of one address, where callers are not known. */
const usual = { caller: 50, address: 200 } as const;

let watching = 0;
const streams = new Map<string, number>();

/** There is no room for another watcher. */
function tooMany(): HttpRefusal {
  return new HttpRefusal({
    slug: 'service-busy',
    status: 503,
    title: 'Too many are watching',
    detail: 'As many are watching as the service has room for. Ask again later.',
    retryAfter: 30,
  });
}

/** A caller has as many streams open as one may have. */
function tooManyOfOne(most: number): HttpRefusal {
  return new HttpRefusal({
    slug: 'too-many-streams',
    status: 429,
    title: 'You have too many streams open',
    detail: `You have ${most} event streams open. Close one, then ask again.`,
    retryAfter: 30,
  });
}

/** Whose streams are counted together, and how many there may be. */
export interface StreamBound {
  readonly name: string;
  readonly isKnown: boolean;
  readonly most?: number | undefined;
}

/**
 * Shows what others write as server-sent events (HTML standard, 9.2), for as long as the caller stays, and is known.
 * @throws Refused, HttpRefusal, Failure before anything is sent
 */
export async function answerLive(
  table: TableAnswers,
  given: Parameters,
  response: ServerResponse,
  isKnown: () => Promise<boolean>,
  bound: StreamBound,
): Promise<void> {
  if (watching >= mostWatchers) throw tooMany();
  const own = streams.get(bound.name) ?? 0;
  const most = bound.most ?? usual[bound.isKnown ? 'caller' : 'address'];
  if (own >= most) throw tooManyOfOne(most);
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
  streams.set(bound.name, own + 1);
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
    const left = (streams.get(bound.name) ?? 1) - 1;
    if (left > 0) streams.set(bound.name, left);
    else streams.delete(bound.name);
  }
}
