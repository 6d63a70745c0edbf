import type { ServerResponse } from 'node:http';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import type { Configuration } from '../config/index.ts';

type Bounds = NonNullable<Configuration['rates']>;

/** What is counted, as the standard's fields call it. */
const kinds = ['requests', 'rows', 'databaseSeconds'] as const;
type Kind = (typeof kinds)[number];

/** What is left of one kind. */
export interface Left {
  readonly kind: Kind;
  readonly of: number;
  readonly left: number;
  /** Seconds until the time begins again. */
  readonly seconds: number;
}

/** Where it is counted what callers ask. */
export interface RateCounters {
  /** Counts a request; shows what is left of every kind. */
  take(caller: string): Promise<readonly Left[]>;
  /** Counts what it came to. */
  spend(caller: string, rows: number, milliseconds: number): void;
}

const usualSeconds = 60;

/** The counts of one process, or of one that leads others; undefined where nothing is bounded. */
export function localRateCounters(bounds: Bounds | undefined): RateCounters | undefined {
  const { seconds = usualSeconds } = bounds ?? {};
  const counted = kinds.flatMap((kind) => {
    const most = bounds?.[kind];
    if (most === undefined) return [];
    // Counts are whole: of seconds, ms.
    const points = kind === 'databaseSeconds' ? Math.ceil(most * 1000) : most;
    return [{ kind, points, limiter: new RateLimiterMemory({ points, duration: seconds }) }];
  });
  if (counted.length === 0) return undefined;
  return {
    take: (caller) =>
      Promise.all(
        counted.map(async ({ kind, points, limiter }): Promise<Left> => {
          const state =
            kind === 'requests' ? await limiter.penalty(caller, 1) : await limiter.get(caller);
          const { consumedPoints = 0, msBeforeNext = seconds * 1000 } = state ?? {};
          return { kind, of: points, left: points - consumedPoints, seconds: msBeforeNext / 1000 };
        }),
      ),
    spend: (caller, rows, milliseconds) => {
      const spent = { requests: 0, rows, databaseSeconds: Math.round(milliseconds) };
      for (const { kind, limiter } of counted) {
        if (spent[kind] > 0) void limiter.penalty(caller, spent[kind]);
      }
    },
  };
}

/**
 * Says in an answer what is left, as the standard has it (RateLimit header fields for HTTP, a draft of the IETF's
 * httpapi group); gives the seconds to wait where there is nothing.
 */
export function reportRemaining(
  all: readonly Left[],
  seconds: number,
  response: ServerResponse,
): number | undefined {
  const inUnits = ({ kind, left, of }: Left): { left: number; of: number } =>
    kind === 'databaseSeconds'
      ? { left: Math.floor(left / 1000), of: Math.floor(of / 1000) }
      : { left, of };
  const policies = all.map((one) => `"${one.kind}";q=${inUnits(one).of};w=${seconds}`);
  // A clock that was set back would have callers wait for as long.
  const waitOf = (one: Left): number => Math.min(seconds, Math.ceil(one.seconds));
  const limits = all.map((one) => {
    const left = Math.max(0, inUnits(one).left);
    return `"${one.kind}";r=${left};t=${waitOf(one)}`;
  });
  response.setHeader('RateLimit-Policy', policies.join(', '));
  response.setHeader('RateLimit', limits.join(', '));
  // The last request is answered; of rows and seconds anyone who has used them up waits.
  const out = all.filter(({ kind, left }) => (kind === 'requests' ? left < 0 : left <= 0));
  return out.length === 0 ? undefined : Math.max(1, ...out.map(waitOf));
}

/** Seconds within which a configuration counts. */
export function secondsOf(bounds: Bounds | undefined): number {
  return bounds?.seconds ?? usualSeconds;
}
