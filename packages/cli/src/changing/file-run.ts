import type { Client } from '@ephoros/client';
import { ServiceError } from '@ephoros/client';
import { InputError } from '../input-error.ts';
import { RowDigest, type Journal, type RunTarget, type UnfinishedRun } from './journal.ts';

export interface FileRunOptions {
  readonly target: RunTarget;
  readonly journal: Journal;
  /** Reads the content of the rows of the file, from the first one on. */
  readonly contents: () => AsyncIterable<string>;
  readonly resume: boolean;
  /** Whether to begin with the first row although an earlier run was not finished. */
  readonly again: boolean;
  readonly withdraw: Client['changes']['withdraw'];
}

/** A run over the rows of a file; the journal knows how far it is. */
export class FileRun {
  /** Rows that an earlier run has saved. */
  readonly savedBefore: number;
  private readonly journal: Journal;
  private run: UnfinishedRun;
  private readonly digest: RowDigest;

  private constructor(journal: Journal, run: UnfinishedRun, digest: RowDigest) {
    this.journal = journal;
    this.run = run;
    this.digest = digest;
    this.savedBefore = run.rows;
  }

  /**
   * Begins a run, or goes on with one that was not finished: known by what its rows say, wherever the
   * file lies and however many rows make a set. @throws InputError, ServiceError
   */
  static async open(options: FileRunOptions): Promise<FileRun> {
    const { target, journal, resume, again } = options;
    const found = await unfinished(options);
    if (found === undefined) {
      if (resume) throw new InputError(nothingToResume);
      return new FileRun(journal, journal.begin(target), new RowDigest());
    }
    const { run } = found;
    if (again) {
      journal.end(run.id);
      return new FileRun(journal, journal.begin(target), new RowDigest());
    }
    if (!resume) {
      const rows = run.rows === 1 ? '1 row' : `${run.rows} rows`;
      throw new InputError(
        `ephoros: An earlier run of this file ended after ${rows}. Say --resume to go on there, or --again to begin with the first row.`,
      );
    }
    const known = await settled(found, options);
    return new FileRun(journal, known.run, known.digest);
  }

  /** Notes that rows are sent under a key. */
  sending(contents: readonly string[], key: string): void {
    for (const content of contents) this.digest.add(content);
    const sent = { rows: contents.length, digest: this.digest.now(), key };
    this.note({ ...this.run, sent });
  }

  /** Notes that the rows that were sent are done. */
  done(): void {
    const { sent, ...run } = this.run;
    if (sent === undefined) return;
    this.note({ ...run, rows: run.rows + sent.rows, digest: sent.digest });
  }

  /** Notes that the rows that were sent are not saved. A run that has saved nothing is forgotten. */
  refused(): void {
    const { sent: _sent, ...run } = this.run;
    if (run.rows === 0) this.end();
    else this.note(run);
  }

  /** The file was read to its end. */
  end(): void {
    this.journal.end(this.run.id);
  }

  private note(run: UnfinishedRun): void {
    this.run = run;
    this.journal.note(run);
  }
}

const nothingToResume =
  'ephoros: No unfinished run has saved the rows that this file begins with. Leave out --resume to save all of it.';

interface Found {
  readonly run: UnfinishedRun;
  /** The digest of the rows that are done. */
  readonly digest: RowDigest;
  /** The same with the rows that were sent; undefined where the file has others by now. */
  readonly sent: RowDigest | undefined;
}

/** The unfinished run whose rows the file begins with: the one that came furthest. */
async function unfinished({
  target,
  journal,
  contents,
}: FileRunOptions): Promise<Found | undefined> {
  const runs = journal.runs(target).filter(({ rows, sent }) => rows > 0 || sent !== undefined);
  if (runs.length === 0) return undefined;
  const furthest = Math.max(...runs.map(({ rows, sent }) => rows + (sent?.rows ?? 0)));
  const digests = new Map<number, string>([[0, new RowDigest().now()]]);
  const all: string[] = [];
  const digest = new RowDigest();
  for await (const content of contents()) {
    all.push(content);
    digest.add(content);
    digests.set(digest.rows, digest.now());
    if (digest.rows >= furthest) break;
  }
  const [run] = runs
    .filter((one) => digests.get(one.rows) === one.digest)
    .sort((one, other) => other.rows - one.rows);
  if (run === undefined) return undefined;
  const upTo = (rows: number): RowDigest => {
    const made = new RowDigest();
    for (const content of all.slice(0, rows)) made.add(content);
    return made;
  };
  const { rows, sent } = run;
  const isSame = sent !== undefined && digests.get(rows + sent.rows) === sent.digest;
  return { run, digest: upTo(rows), sent: isSame ? upTo(rows + sent.rows) : undefined };
}

/** Finds out whether the rows that were sent last were saved: they are not sent twice. */
async function settled(
  { run, digest, sent: digestSent }: Found,
  { withdraw }: FileRunOptions,
): Promise<{ readonly run: UnfinishedRun; readonly digest: RowDigest }> {
  const { sent, ...rest } = run;
  if (sent === undefined) return { run, digest };
  const [first, last] = [run.rows + 1, run.rows + sent.rows];
  let answer: Awaited<ReturnType<typeof withdraw>>;
  try {
    answer = await withdraw(sent.key);
  } catch (thrown) {
    const isForgotten =
      thrown instanceof ServiceError && thrown.problems.some(({ code }) => code === 'no-history');
    if (!isForgotten) throw thrown;
    throw new InputError(
      `ephoros: Whether rows ${first} to ${last} were saved is not known: the service has no records.`,
    );
  }
  if (answer === null) return { run: rest, digest };
  if (digestSent === undefined) {
    throw new InputError(
      `ephoros: Rows ${first} to ${last} were saved as they were; the file has other rows there by now.`,
    );
  }
  return { run: { ...rest, rows: last, digest: sent.digest }, digest: digestSent };
}
