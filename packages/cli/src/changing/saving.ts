import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import {
  ServiceError,
  type Change,
  type ChangeOutcome,
  type ChangesAnswer,
  type SaveOptions,
} from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import { printKey } from '@ephoros/core/schema';
import { plain } from '../output/plain.ts';
import type { Progress } from '../output/progress.ts';
import type { Terminal } from '../terminal.ts';
import type { FileRun } from './file-run.ts';

/** What could not be saved was reported already. */
class NotSavedError extends Error {
  readonly exitCode: number;

  /** 5 where rows are not as they were read, 3 where something is refused. */
  constructor(conflict: boolean) {
    super('not saved');
    this.exitCode = conflict ? 5 : 3;
  }
}

/** A change and what to call it when something is wrong with it. */
export interface NamedChange {
  readonly change: Change;
  /** "line 17", "key 42". */
  readonly name: string;
  /** What the row of a file says, by which it is known again. */
  readonly content?: string;
}

export interface SavingOptions {
  /** Sends one set. */
  readonly send: (changes: readonly Change[], how: SaveOptions) => Promise<ChangesAnswer>;
  readonly dryRun?: boolean | undefined;
  /** Whether each change is saved for itself. */
  readonly each?: boolean | undefined;
  /** Changes of one set. */
  readonly setSize: number;
  /** The run over a file, which notes how far it is. */
  readonly run?: FileRun | undefined;
}

/** What was done in all. */
export interface Saved {
  readonly done: number;
  readonly refused: number;
  /** Ids of the saved sets. */
  readonly sets: readonly string[];
  readonly keys: readonly string[];
}

const away = { first: 500, tries: 6 };

/** Saves changes in sets, one after the other, and reports each that cannot be. @throws NotSavedError, ServiceError */
export async function saveInSets(
  changes: AsyncIterable<NamedChange> | Iterable<NamedChange>,
  options: SavingOptions,
  { terminal, progress }: { readonly terminal: Terminal; readonly progress?: Progress },
): Promise<Saved> {
  const saving = new Saving(options, terminal);
  let set: NamedChange[] = [];
  let read = 0;
  for await (const one of changes) {
    set.push(one);
    read += 1;
    if (set.length < options.setSize) continue;
    await saving.save(set);
    progress?.step('saved', saving.done, read);
    set = [];
  }
  if (set.length > 0) await saving.save(set);
  if (read > options.setSize && set.length > 0) progress?.step('saved', saving.done, read);
  return saving.end();
}

class Saving {
  done = 0;
  private readonly options: SavingOptions;
  private readonly terminal: Terminal;
  private refused = 0;
  private conflict = false;
  private keyed = true;
  private readonly sets: string[] = [];
  private readonly keys: string[] = [];

  constructor(options: SavingOptions, terminal: Terminal) {
    this.options = options;
    this.terminal = terminal;
  }

  async save(set: readonly NamedChange[]): Promise<void> {
    const first = set[0]?.name ?? '';
    const last = set.at(-1)?.name ?? '';
    const { run } = this.options;
    const key = randomUUID();
    run?.sending(
      set.map(({ content = '' }) => content),
      key,
    );
    try {
      this.note(set, await this.send(set, key));
      run?.done();
    } catch (thrown) {
      if (!(thrown instanceof ServiceError) || thrown.kind !== 'refused') throw thrown;
      run?.refused();
      this.notify(set, thrown);
      const many = set.length === 1 ? first : `${first} to ${last}`;
      const before = this.done === 0 ? 'Nothing is saved' : `${this.done} rows before are saved`;
      this.terminal.stderr.write(`ephoros: ${many}: not saved. ${before}.\n`);
      throw new NotSavedError(thrown.status === 409);
    }
  }

  /** @throws NotSavedError where some were not saved, each for itself */
  end(): Saved {
    this.options.run?.end();
    if (this.refused > 0) {
      this.terminal.stderr.write(`ephoros: saved ${this.done}, not saved ${this.refused}.\n`);
      throw new NotSavedError(this.conflict);
    }
    return { done: this.done, refused: this.refused, sets: this.sets, keys: this.keys };
  }

  private async send(set: readonly NamedChange[], key: string): Promise<ChangesAnswer> {
    const { send, dryRun = false, each = false } = this.options;
    const changes = set.map(({ change }) => change);
    for (let tries = 1; ; tries += 1) {
      try {
        return await send(changes, {
          dryRun,
          mode: each ? 'each' : 'all',
          ...(this.keyed && !dryRun ? { idempotencyKey: key } : {}),
        });
      } catch (thrown) {
        if (!(thrown instanceof ServiceError)) throw thrown;
        if (this.keyed && thrown.problems.some(({ code }) => code === 'no-history')) {
          this.keyed = false;
          continue;
        }
        // Under its key it is saved once, however often it is sent.
        const again =
          thrown.kind === 'unavailable' && this.keyed && tries < away.tries && this.done > 0;
        if (!again) throw thrown;
        const pause = Math.max((thrown.retryAfter ?? 0) * 1000, away.first * 2 ** (tries - 1));
        await sleep(pause);
      }
    }
  }

  private note(set: readonly NamedChange[], { id, outcomes }: ChangesAnswer): void {
    if (id !== null) this.sets.push(id);
    for (const [index, outcome] of outcomes.entries()) {
      if (outcome.kind === 'done') {
        this.done += 'count' in outcome ? outcome.count : 1;
        if ('key' in outcome) this.keys.push(printKey(outcome.key));
        continue;
      }
      this.refused += 1;
      this.reportOutcome(set[index]?.name ?? '', outcome);
    }
  }

  private notify(set: readonly NamedChange[], { problems, outcomes, message }: ServiceError): void {
    for (const one of problems) {
      this.reportProblem(one.change === undefined ? '' : (set[one.change]?.name ?? ''), one);
    }
    for (const [index, outcome] of outcomes.entries()) {
      if (outcome.kind === 'conflict') this.reportOutcome(set[index]?.name ?? '', outcome);
    }
    if (problems.length === 0 && outcomes.length === 0) {
      this.terminal.stderr.write(`  ${plain(message)}\n`);
    }
  }

  private reportOutcome(name: string, outcome: ChangeOutcome): void {
    const { stderr } = this.terminal;
    if (outcome.kind === 'refused') {
      for (const one of outcome.errors) this.reportProblem(name, one);
    } else if (outcome.kind === 'conflict') {
      this.conflict = true;
      if ('count' in outcome)
        stderr.write(`  ${name}: the number of rows is ${outcome.count} by now.\n`);
      else if (outcome.now === null) stderr.write(`  ${name}: there is no such row (any more).\n`);
      else {
        const { now, columns } = outcome;
        const messages = columns.map((column) => `${column} is ${JSON.stringify(now[column])}`);
        stderr.write(`  ${name}: somebody else has changed it: ${plain(messages.join(', '))}.\n`);
      }
    }
  }

  private reportProblem(name: string, { column, message, hint }: Problem): void {
    const place = [name, column].filter((part) => part !== undefined && part !== '').join(', ');
    const text = `${plain(message)}${hint === undefined ? '' : ` ${plain(hint)}`}`;
    this.terminal.stderr.write(`  ${place === '' ? '' : `${plain(place)}: `}${text}\n`);
  }
}
