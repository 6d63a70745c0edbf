import { Agent, request, type ClientRequest } from 'node:http';

/** How a load was borne. */
export interface Load {
  /** Answers a second. */
  readonly throughput: number;
  /** In ms. */
  readonly p50: number;
  readonly p99: number;
  /** Answers that were no success. */
  readonly errors: number;
}

/** One question at one answer, its body read to the end; resolves to the status and the ms. */
export function fetched(
  url: string,
  agent?: Agent,
  sent?: object,
): Promise<{ readonly status: number; readonly milliseconds: number; readonly body: string }> {
  const began = performance.now();
  return new Promise((resolve, reject) => {
    // As the clients ask.
    const headers = { Prefer: 'respond-async, wait=0.8' };
    const options = { headers, ...(agent && { agent }), ...(sent && { method: 'POST' }) };
    const wanted: ClientRequest = request(url, options, (response) => {
      const parts: Buffer[] = [];
      response.on('data', (part: Buffer) => parts.push(part));
      response.on('end', () => {
        resolve({
          status: response.statusCode ?? 0,
          milliseconds: performance.now() - began,
          body: Buffer.concat(parts).toString(),
        });
      });
      response.on('error', reject);
    });
    wanted.on('error', reject);
    wanted.end(sent === undefined ? undefined : JSON.stringify(sent));
  });
}

/** A question that was repeated until its answer was whole. */
export interface Readied {
  readonly status: number;
  /** Ms until it was whole, and until it had the first row. */
  readonly milliseconds: number;
  readonly first: number;
  /** Ms of the longest single answer. */
  readonly longest: number;
  readonly body: string;
}

/** Whether an answer has all rows that its window may have. */
function isFull(body: string): boolean {
  const { window } = JSON.parse(body) as { window: { count: number; limit: number } };
  return window.count >= window.limit;
}

/** Asks again while the answer is not ready, or not whole. */
export async function readied(url: string, sent?: object): Promise<Readied> {
  const began = performance.now();
  let longest = 0;
  let first: number | undefined;
  for (;;) {
    const { status, milliseconds, body } = await fetched(url, undefined, sent);
    longest = Math.max(longest, milliseconds);
    const spent = performance.now() - began;
    const found = status === 200 && !body.includes('"rows":[]');
    if (found) first ??= spent;
    const waits = status === 202;
    const grows = status === 200 && body.includes('"scanned":{') && !isFull(body);
    if (!waits && !grows) {
      return { status, milliseconds: spent, first: first ?? spent, longest, body };
    }
    // As the clients pause.
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

/** The same of what must be a success. @throws Error */
export async function answered(url: string, sent?: object): Promise<Readied> {
  const answer = await readied(url, sent);
  const { status, body } = answer;
  if (status !== 200) throw new Error(`${url} answered ${status}: ${body.slice(0, 500)}`);
  return answer;
}

/** Ms until that was whole. @throws Error */
export async function took(url: string, sent?: object): Promise<number> {
  return (await answered(url, sent)).milliseconds;
}

/** Asks over so many connections, each as soon as it has its answer, for a time in ms. */
export async function load(
  query: (turn: number) => string,
  connections: number,
  duration: number,
): Promise<Load> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  const times: number[] = [];
  let errors = 0;
  let turn = 0;
  const began = performance.now();
  const request = async (): Promise<void> => {
    while (performance.now() - began < duration) {
      const { status, milliseconds } = await fetched(query((turn += 1)), agent);
      if (status === 200) times.push(milliseconds);
      else errors += 1;
    }
  };
  await Promise.all(Array.from({ length: connections }, request));
  const seconds = (performance.now() - began) / 1000;
  agent.destroy();
  return {
    throughput: times.length / seconds,
    p50: quantile(times, 0.5),
    p99: quantile(times, 0.99),
    errors,
  };
}

/** The value below which a share of all lies; 0 of none. */
export function quantile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((one, other) => one - other);
  return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0;
}
