import type { CallerResult, LoadResult } from './faults.ts';

interface Content {
  readonly problems: readonly LoadResult[];
  /** Confirmed writes, and how many of them are not stored exactly once. */
  readonly saved: number;
  readonly wrong: number;
  readonly callers: readonly CallerResult[];
  /** The processors and versions of the test machine. */
  readonly machine: string;
}

const number = (value: number): string => value.toLocaleString('en-GB');

/** The document. */
export function page({ problems, saved, wrong, callers, machine }: Content): string {
  const lines = problems.map(({ fault, request }) =>
    [
      fault,
      number(request.reads),
      number(request.refusedReads),
      `${number(request.longestRead)} ms`,
      number(request.writes),
      number(request.askedAgain),
      `${number(request.longestWrite)} ms`,
    ].join(' | '),
  );
  const tried = callers.map(({ fault, result }) => `${fault} | ${result}`);
  return `# Failures: what callers get

\`npm run faults\` writes this page. It causes each failure on one machine and counts the effects. ${machine}

## Setup

Two services with two workers each run behind nginx. The database is a primary with two replicas (streaming replication). Everything
comes from Debian packages and runs on loopback. Six callers read windows of 20,000 rows as fast as they can. Two callers write one row
at a time with an idempotency key, and repeat a write until it is answered. nginx repeats a failed read at the other service.
Each failure lasts four seconds. The figures cover the time from its start until three seconds after its end.

## Services, proxy and database servers

| failure | reads | failed reads | longest read | writes | repeated writes | longest write |
| --- | --: | --: | --: | --: | --: | --: |
${lines.map((line) => `| ${line} |`).join('\n')}

${number(saved)} writes were confirmed; ${wrong === 0 ? 'each is stored exactly once' : `${number(wrong)} of them are not stored exactly once`}.

While the primary is unavailable, the replicas answer reads, and writes get 503 with \`Retry-After\`. The longest write is the
time until the primary is back. While all three servers are unavailable, every request gets 503. Without nginx no service can be
reached.

## Sign-in

| failure | what callers get |
| --- | --- |
${tried.map((line) => `| ${line} |`).join('\n')}

The service caches a valid token for five seconds, so a revoked token works for at most that long. While the records are
unavailable, callers of the last 15 minutes stay signed in. If the clock of a service is ahead by more than \`skew\` (one minute by
default), signed tokens expire too early, and callers get 401. If it is behind, tokens are valid for longer. Nothing else depends
on the clock.
`;
}
