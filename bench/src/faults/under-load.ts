import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';

/** What callers saw between two moments. */
export interface Seen {
  readonly reads: number;
  /** Reads that were not answered with rows. */
  readonly refusedReads: number;
  /** Ms of the longest time in which a reader had no answer. */
  readonly longestRead: number;
  readonly writes: number;
  /** Writes that were not answered at the first time. */
  readonly askedAgain: number;
  /** Ms of the longest time until a write was answered. */
  readonly longestWrite: number;
}

interface Noted {
  readonly at: number;
  readonly kind: 'read' | 'write';
  readonly good: boolean;
  /** Ms since its caller was answered last, or first requested. */
  readonly took: number;
  readonly again: number;
}

/** Ms that a request may take before its caller gives it up. */
const waitLimit = 10_000;
/** Ms before a write is sent again. */
const pause = 100;

/** Callers who read and write all the time, through one address. */
export class Load {
  private readonly url: string;
  private readonly headers: Record<string, string>;
  private readonly noted: Noted[] = [];
  private readonly running: Promise<void>[];
  private options = true;
  /** What was stated to be saved. */
  private readonly saved: string[] = [];

  constructor(url: string, token: string) {
    this.url = url;
    this.headers = { Authorization: `Bearer ${token}` };
    this.running = [
      ...Array.from({ length: 6 }, () => this.read()),
      ...Array.from({ length: 2 }, () => this.write()),
    ];
  }

  /** What callers saw from a moment on. */
  since(began: number): Seen {
    const all = this.noted.filter(({ at }) => at >= began);
    const reads = all.filter(({ kind }) => kind === 'read');
    const writes = all.filter(({ kind }) => kind === 'write');
    const longest = (of: readonly Noted[]): number =>
      Math.round(Math.max(0, ...of.map(({ took }) => took)));
    return {
      reads: reads.length,
      refusedReads: reads.filter(({ good }) => !good).length,
      longestRead: longest(reads.filter(({ good }) => good)),
      writes: writes.length,
      askedAgain: writes.reduce((sum, { again }) => sum + (again > 0 ? 1 : 0), 0),
      longestWrite: longest(writes),
    };
  }

  async stop(): Promise<void> {
    this.options = false;
    await Promise.all(this.running);
  }

  /** Of what was stated to be saved: how much is not there, or twice. @throws pg's errors */
  async wrong(url: string): Promise<number> {
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    try {
      const { rows } = await client.query<{ token: string; times: number }>(
        'select token, count(*)::int as times from public.entries group by token',
      );
      const times = new Map(rows.map((row) => [row.token, row.times]));
      const lost = this.saved.filter((token) => times.get(token) !== 1).length;
      return lost + rows.filter((row) => row.times > 1 && !this.saved.includes(row.token)).length;
    } finally {
      await client.end();
    }
  }

  private async read(): Promise<void> {
    let answered = Date.now();
    while (this.options) {
      const offset = Math.floor(Math.random() * 19_000);
      const good = await this.pending(`/api/tables/berths/rows?limit=20&offset=${offset}`);
      const at = Date.now();
      this.noted.push({ at, kind: 'read', good, took: at - answered, again: 0 });
      if (good) answered = at;
      else await sleep(pause);
    }
  }

  private async write(): Promise<void> {
    while (this.options) {
      const token = randomUUID();
      const began = Date.now();
      let again = 0;
      // The same set under the same key, until it is known to be saved.
      for (;;) {
        const good = await this.pending('/api/tables/entries/changes', {
          method: 'POST',
          body: JSON.stringify({ changes: [{ kind: 'add', values: { token } }] }),
          headers: { 'Content-Type': 'application/json', 'Idempotency-Key': token },
        });
        if (good) break;
        again += 1;
        // A write that never comes about would keep the rest from ending.
        if (again > 600) throw new Error('a write was never answered');
        await sleep(pause);
      }
      const at = Date.now();
      this.saved.push(token);
      this.noted.push({ at, kind: 'write', good: true, took: at - began, again });
      await sleep(20);
    }
  }

  private async pending(path: string, options: RequestInit = {}): Promise<boolean> {
    try {
      const response = await fetch(this.url + path, {
        ...options,
        headers: { ...this.headers, ...(options.headers as Record<string, string>) },
        signal: AbortSignal.timeout(waitLimit),
      });
      await response.arrayBuffer();
      return response.status === 200;
    } catch {
      return false;
    }
  }
}
