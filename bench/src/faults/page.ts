import type { Told, Tried } from './faults.ts';

interface Content {
  readonly problems: readonly Told[];
  /** Writes that were stated to be saved, and how many of them are not there once. */
  readonly saved: number;
  readonly wrong: number;
  readonly callers: readonly Tried[];
  /** What it was tried on. */
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
  return `# What becomes of callers when something fails

Written by \`npm run faults\`, which brings all of this about on one machine and counts. ${machine}

Two services of two workers each stand behind nginx; the database is a server that is written to and two that follow it
(streaming replication), all of Debian's packages, on loopback. Six callers read windows of 20,000 rows as fast as they
can, two write a row each, under an idempotency key: what is not answered is sent again under the same key until it is.
nginx asks the other service where one does not answer what only reads. Each fault lasts four seconds and is made good
then; the figures are of the time from its beginning until three seconds after all was as before.

| fault | reads | not answered | longest wait for a read | writes | sent again | longest wait for a write |
| --- | --: | --: | --: | --: | --: | --: |
${lines.map((line) => `| ${line} |`).join('\n')}

Of ${number(saved)} writes that were said to be saved, ${wrong === 0 ? 'every one is there, and none is there twice' : `${number(wrong)} are not there once`}.

Where the server that is written to is away, reading goes on from those that follow, and writing is answered by 503 with
\`Retry-After\`; its longest wait is the time that it was away and took to come back. Where all three are away, nothing can
be read: every question is answered by 503 until one is back. Without nginx nobody is reached; services and servers go on.

## Who asks

| what | what callers saw |
| --- | --- |
${tried.map((line) => `| ${line} |`).join('\n')}

A token that was revoked counts for five seconds at most where it was in use, since the records are not asked at each
request. While the records are away, callers who were seen within the last quarter of an hour go on to be known. A clock that is ahead by more than the
skew (\`skew\`, a minute by default) makes signed tokens of a few minutes expired, which is told to their callers; one that
is behind takes them for longer than they were meant to last. Nothing else depends on the clock.
`;
}
