import { createHash, randomUUID, type Hash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';

type Environment = Readonly<Record<string, string | undefined>>;

/** What a run over a file is about: the same rows for another table are another run. */
export interface RunTarget {
  readonly url: string;
  readonly table: string;
  readonly command: 'add' | 'change';
}

/** A run that has not reached the end of its file. */
export interface UnfinishedRun extends RunTarget {
  readonly version: 1;
  readonly id: string;
  /** Rows from the first one on that are saved, or were refused each for itself. */
  readonly rows: number;
  /** A digest of the content of those rows. */
  readonly digest: string;
  /** The set that was sent and is not known to be saved: how many rows, and the digest up to its end. */
  readonly sent?: { readonly rows: number; readonly digest: string; readonly key: string };
  readonly at: string;
}

/** Days after which an unfinished run is forgotten, as long as services keep their keys at least. */
const mostDays = 30;

/** The digest of the content of a file's rows so far; the name of the file does not matter. */
export class RowDigest {
  private readonly hash: Hash = createHash('sha256');
  rows = 0;

  add(content: string): void {
    this.rows += 1;
    this.hash.update(`${content.length}:${content}`);
  }

  now(): string {
    return this.hash.copy().digest('base64url');
  }
}

/** The unfinished runs of the user of this machine, each in a file of its own. */
export class Journal {
  private readonly folder: string;

  constructor({ XDG_STATE_HOME: folder, HOME: home = homedir() }: Environment) {
    const base = folder === undefined || folder === '' ? join(home, '.local', 'state') : folder;
    this.folder = join(base, 'ephoros', 'runs');
  }

  /** The unfinished runs of a target. */
  runs({ url, table, command }: RunTarget): readonly UnfinishedRun[] {
    let names: readonly string[];
    try {
      names = readdirSync(this.folder);
    } catch {
      return [];
    }
    return names.flatMap((name) => {
      const run = this.read(name);
      const isOld = run !== undefined && Date.now() - Date.parse(run.at) > mostDays * 86_400_000;
      if (isOld) this.end(run.id);
      const isSame = run?.url === url && run.table === table && run.command === command;
      return isSame && !isOld ? [run] : [];
    });
  }

  begin(target: RunTarget): UnfinishedRun {
    const at = new Date().toISOString();
    const digest = new RowDigest().now();
    return { ...target, version: 1, id: randomUUID(), rows: 0, digest, at };
  }

  /** Notes how far a run is. @throws where the folder cannot be written */
  note(run: UnfinishedRun): void {
    mkdirSync(this.folder, { recursive: true, mode: 0o700 });
    writeFileSync(this.fileOf(run.id), `${JSON.stringify(run)}\n`, { mode: 0o600 });
  }

  end(id: string): void {
    rmSync(this.fileOf(id), { force: true });
  }

  private fileOf(id: string): string {
    return join(this.folder, `${id}.json`);
  }

  private read(name: string): UnfinishedRun | undefined {
    try {
      const read = JSON.parse(readFileSync(join(this.folder, name), 'utf8')) as UnfinishedRun;
      return (read.version as number) === 1 ? read : undefined;
    } catch {
      // Somebody has written something else there.
      return undefined;
    }
  }
}
