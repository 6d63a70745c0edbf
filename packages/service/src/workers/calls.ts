import { LRUCache } from 'lru-cache';

/** A call to the leading process, its answer, and that nobody waits for the answer any more. */
export type Message =
  | {
      readonly kind: 'ephoros:call';
      readonly id: number;
      readonly method: string;
      readonly args: unknown[];
    }
  | { readonly kind: 'ephoros:gone'; readonly id: number }
  | { readonly kind: 'ephoros:answer'; readonly id: number; readonly result: unknown };

/** One end of a channel between processes, such as `process` in a worker. */
export interface Channel {
  readonly send: (message: Message) => void;
  readonly listen: (listener: (message: unknown) => void) => void;
}

/** What is called by name: each method with its arguments as plain data, and until when. */
export type Methods = Readonly<
  Record<string, (args: unknown[], signal: AbortSignal) => Promise<unknown>>
>;

function isMessage(message: unknown): message is Message {
  const { kind } = (message ?? {}) as { kind?: unknown };
  return typeof kind === 'string' && kind.startsWith('ephoros:');
}

/** Calls of one channel whose caller may still go away, also once they are answered. */
const mostCalls = 10_000;

/**
 * Answers the calls that come in over a channel. A method that throws answers undefined. The signal
 * of a call aborts when its caller goes away, be it after the answer: what goes on behind that, such
 * as a count, is wanted by nobody then.
 */
export function answerCalls({ send, listen }: Channel, methods: Methods): void {
  const running = new LRUCache<number, AbortController>({ max: mostCalls });
  const answer = async (id: number, method: string, args: unknown[]): Promise<void> => {
    const controller = new AbortController();
    running.set(id, controller);
    let result: unknown;
    try {
      result = await methods[method]?.(args, controller.signal);
    } catch {
      // The caller goes on without what it requested.
    }
    send({ kind: 'ephoros:answer', id, result });
  };
  listen((message) => {
    if (!isMessage(message)) return;
    if (message.kind === 'ephoros:call') void answer(message.id, message.method, message.args);
    else if (message.kind === 'ephoros:gone') {
      running.get(message.id)?.abort();
      running.delete(message.id);
    }
  });
}

/** Calls over a channel; resolves to undefined where the other end knows nothing. */
export function caller({
  send,
  listen,
}: Channel): (method: string, args: unknown[], signal?: AbortSignal) => Promise<unknown> {
  const waiting = new Map<number, (result: unknown) => void>();
  let last = 0;
  listen((message) => {
    if (!isMessage(message) || message.kind !== 'ephoros:answer') return;
    waiting.get(message.id)?.(message.result);
    waiting.delete(message.id);
  });
  return (method, args, signal) => {
    const id = (last += 1);
    const gone = (): void => send({ kind: 'ephoros:gone', id });
    signal?.addEventListener('abort', gone, { once: true });
    return new Promise((resolve) => {
      // Anyone who goes away later than the answer came says so as well.
      waiting.set(id, resolve);
      send({ kind: 'ephoros:call', id, method, args });
    });
  };
}
