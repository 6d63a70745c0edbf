import { gunzipSync } from 'node:zlib';
import type { Browser, CDPSession } from 'playwright-core';

/** A task of a page's main thread, in ms. */
export interface Task {
  /** From its beginning to its end. */
  readonly taken: number;
  /** For which of that it had a processor; the rest went to other threads, or to the host's other guests. */
  readonly worked: number;
}

interface TraceEvent {
  readonly name: string;
  readonly pid: number;
  readonly tid: number;
  /** Microseconds, by the clock and by the processor. */
  readonly dur?: number;
  readonly tdur?: number;
  readonly args: { readonly name?: string };
}

/** KB of what is traced at once: some minutes of scrolling. */
const room = 1_000_000;

/** The tasks of the main threads of a browser's pages while something is done. Being traced costs a little itself. */
export async function traced(browser: Browser, work: () => Promise<void>): Promise<Task[]> {
  const session = await browser.newBrowserCDPSession();
  try {
    await session.send('Tracing.start', {
      transferMode: 'ReturnAsStream',
      streamCompression: 'gzip',
      traceConfig: {
        recordMode: 'recordUntilFull',
        traceBufferSizeInKb: room,
        includedCategories: ['toplevel'],
        excludedCategories: ['*'],
      },
    });
    await work();
    return tasksOf(await ended(session));
  } finally {
    await session.detach();
  }
}

/** What was traced, from the moment on that tracing is ended. */
async function ended(session: CDPSession): Promise<TraceEvent[]> {
  const complete = new Promise<{ stream?: string; dataLossOccurred: boolean }>((resolve) => {
    session.once('Tracing.tracingComplete', resolve);
  });
  await session.send('Tracing.end');
  const { stream, dataLossOccurred } = await complete;
  if (stream === undefined || dataLossOccurred) throw new Error('a part of the trace was lost');
  const pieces: Buffer[] = [];
  for (let isRead = false; !isRead;) {
    const piece = await session.send('IO.read', { handle: stream });
    pieces.push(Buffer.from(piece.data, piece.base64Encoded === true ? 'base64' : 'utf8'));
    isRead = piece.eof;
  }
  await session.send('IO.close', { handle: stream });
  const text = gunzipSync(Buffer.concat(pieces)).toString();
  return (JSON.parse(text) as { traceEvents: TraceEvent[] }).traceEvents;
}

function tasksOf(events: readonly TraceEvent[]): Task[] {
  const threadOf = ({ pid, tid }: TraceEvent): string => `${pid} ${tid}`;
  const named = events.filter(
    ({ name, args }) => name === 'thread_name' && args.name === 'CrRendererMain',
  );
  const main = new Set(named.map(threadOf));
  const tasks = events.flatMap((event) => {
    const { name, dur, tdur } = event;
    if (name !== 'ThreadControllerImpl::RunTask' || !main.has(threadOf(event))) return [];
    if (dur === undefined || tdur === undefined) return [];
    return [{ taken: dur / 1_000, worked: tdur / 1_000 }];
  });
  // The names are the browser's: where they are others, nothing would look like good tasks.
  if (tasks.length === 0) throw new Error('the trace has no tasks of a page');
  return tasks;
}
