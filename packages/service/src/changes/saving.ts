import { createHash } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import {
  checkChanges,
  type Change,
  type CheckedChange,
  type ChangeOptions,
} from '@ephoros/core/change';
import { problem, type Problem } from '@ephoros/core/problem';
import type { Tables } from '@ephoros/core/schema';
import { Refused } from '../query/index.ts';
import { ChangeLog, KeyTaken, type LoggedSet } from '../records/index.ts';
import { Failure } from '../run/index.ts';
import type { Catalog } from '../catalog/index.ts';
import { OneByOne, runSet, type LeftOut } from './run-set.ts';
import { AnswerBuilder, type SavedAnswer } from './answer-builder.ts';
import { isRefusal, type Transaction, type Writer } from './writer.ts';

/** A set of changes as it was sent. */
export interface GivenSet {
  readonly changes: readonly Change[];
  /** Their JSON text, which has all digits: by it the same set is known again. */
  readonly text: string;
  readonly raw?: ChangeOptions['raw'];
  /** The table that all of them are about, where the address says so. */
  readonly table?: string;
}

export interface SaveOptions {
  /** `all` or none; or `each` that can be saved. */
  readonly mode: 'all' | 'each';
  /** Whether all is only tried. */
  readonly dryRun: boolean;
  /** What the caller calls the request. */
  readonly idempotencyKey?: string | undefined;
}

/** Who saves, and with what. */
export interface Saving {
  readonly catalog: Catalog;
  readonly writer: Writer;
  readonly log: ChangeLog | undefined;
  readonly keep: 'values' | 'names' | 'nothing';
  readonly caller: string;
  readonly signal: AbortSignal;
  /**
   * What the set is checked with; or the set itself, where it is made of the history. Called once it is
   * known that the set was not saved before. @throws Refused
   */
  readonly prepare: () => Promise<
    | Pick<ChangeOptions, 'storedSelections'>
    /** `catalog`: the tables as these changes go by them. */
    | { readonly checked: readonly CheckedChange[]; readonly catalog: Catalog }
  >;
  readonly undoes?: string;
}

/** Tries of a set that got in the way of others. */
const mostTries = 5;
/** Sets that are made again without what turned out to be broken. */
const mostRounds = 10;
/** Ms that a request is waited for which was sent under the same key. */
const waitForOther = 5_000;

/** Rolls a transaction back and carries what was to be stated. */
class NotSaved extends Error {
  readonly answer: SavedAnswer;
  constructor(answer: SavedAnswer) {
    super('not saved');
    this.answer = answer;
  }
}

/** What is checked at the end of the transaction does not hold, whichever change it is. */
class BrokenAtTheEnd extends Error {}

/** Saves a set of changes. @throws Refused, RecordsError, Failure */
export async function saveSet(
  given: GivenSet,
  options: SaveOptions,
  saving: Saving,
): Promise<SavedAnswer> {
  const { idempotencyKey: key } = options;
  if (key === undefined || options.dryRun) {
    return runUntilDone(await checkSet(given, options, saving), options, saving);
  }
  const { log, caller } = saving;
  if (log === undefined) throw new Refused([problem('no-history', {})]);
  const digest = createHash('sha256')
    .update(JSON.stringify([given.table ?? null, options.mode, saving.undoes ?? null, given.text]))
    .digest('base64url');
  const until = Date.now() + waitForOther;
  for (;;) {
    const sent = await log.sent(caller, key);
    if (sent !== undefined) {
      const before = await answerOf(sent, digest, { log, writer: saving.writer });
      if (before === undefined) {
        if (Date.now() > until) throw new Failure('locked');
        await sleep(50);
        continue;
      }
      if (before !== 'aborted') return before;
    }
    try {
      const checked = await checkSet(given, options, saving);
      return await runUntilDone(checked, options, saving, { key, digest });
    } catch (thrown) {
      if (!(thrown instanceof KeyTaken)) throw thrown;
    }
  }
}

/** The answer to a request that was sent before; undefined while it is under way. @throws Refused */
async function answerOf(
  sent: LoggedSet,
  digest: string,
  way: { readonly log: ChangeLog; readonly writer: Writer },
): Promise<SavedAnswer | 'aborted' | undefined> {
  if (sent.state === 'withdrawn') throw new Refused([problem('withdrawn-key', {})]);
  if (sent.digest !== digest) throw new Refused([problem('key-of-another-set', {})]);
  switch (await settled(sent, way)) {
    case 'saved':
      return { status: 200, json: sent.answer ?? '', rows: 0 };
    case 'aborted':
      return 'aborted';
    default:
      return undefined;
  }
}

/**
 * Has nothing be saved under a key any more, also where its request is still on its way. Gives the
 * answer where it was saved before, else null. @throws Failure
 */
export async function withdrawSet(
  key: string,
  caller: string,
  way: { readonly log: ChangeLog; readonly writer: Writer },
): Promise<string | null> {
  const until = Date.now() + waitForOther;
  for (;;) {
    if (await way.log.withdraw(caller, key)) return null;
    const sent = await way.log.sent(caller, key);
    if (sent?.state === 'withdrawn') return null;
    const fate = sent && (await settled(sent, way));
    if (fate === 'saved') return sent?.answer ?? null;
    if (fate === 'pending') {
      if (Date.now() > until) throw new Failure('locked');
      await sleep(50);
    }
  }
}

/** Whether a set that was noted has been saved, as its transaction reports. @throws Failure */
export async function settled(
  { id, state, transaction }: Pick<LoggedSet, 'id' | 'state' | 'transaction'>,
  { log, writer }: { readonly log: ChangeLog; readonly writer: Writer },
): Promise<'saved' | 'aborted' | 'pending'> {
  if (state === 'saved') return 'saved';
  const fate = await writer.fateOf(transaction);
  if (fate === 'in progress') return 'pending';
  // Of what is so old that nobody remembers it: rows were noted just before they were committed.
  const saved = fate !== 'aborted';
  await log.settle(id, saved);
  return saved ? 'saved' : 'aborted';
}

/** A set as far as it can be saved at all. */
interface CheckedSet {
  readonly changes: readonly CheckedChange[];
  /** How many were sent. */
  readonly count: number;
  readonly refused: LeftOut;
  /** The tables as the changes go by them. */
  readonly catalog: Catalog;
}

/** @throws Refused; where each change is for itself, only of the set as a whole */
async function checkSet(
  given: GivenSet,
  { mode }: SaveOptions,
  { catalog, prepare }: Saving,
): Promise<CheckedSet> {
  const prepared = await prepare();
  if ('checked' in prepared) {
    const { checked: made, catalog: own } = prepared;
    return { changes: made, count: made.length, refused: new Map(), catalog: own };
  }
  const { changes, raw, table } = given;
  const tables: Tables = catalog.describe;
  const own = table === undefined ? undefined : tables(table);
  const { checked, problems } = checkChanges(changes, {
    tables,
    unicode: catalog.unicode,
    limits: catalog.limits,
    names: catalog.tables.keys(),
    ...(prepared.storedSelections && { storedSelections: prepared.storedSelections }),
    ...(raw && { raw }),
    ...(own && { table: own }),
  });
  const refused = new Map<number, Problem[]>();
  for (const one of problems) {
    if (mode === 'all' || one.change === undefined) throw new Refused(problems);
    refused.set(one.change, [...(refused.get(one.change) ?? []), one]);
  }
  return { changes: checked, count: changes.length, refused, catalog };
}

type Request = { readonly key: string; readonly digest: string };

/** Runs a set until nothing of others gets in its way, nor an error that shows late. */
async function runUntilDone(
  checked: CheckedSet,
  options: SaveOptions,
  saving: Saving,
  request?: Request,
): Promise<SavedAnswer> {
  const leftOut = new Map<number, readonly Problem[]>();
  let careful = false;
  let immediate = false;
  let tries = 0;
  for (let round = 0; ; round += 1) {
    try {
      const outcome = await saving.writer.transaction(saving.signal, (inside) =>
        runOnce(checked, { ...options, careful, immediate, leftOut }, saving, inside, request),
      );
      if ('status' in outcome) return outcome;
      // In mode `each`: what turned out to be broken is left out from the beginning.
      for (const [at, problems] of outcome) leftOut.set(at, problems);
      if (round > mostRounds) throw new Failure('locked');
    } catch (thrown) {
      if (thrown instanceof NotSaved) return thrown.answer;
      if ((isRefusal(thrown) || thrown instanceof OneByOne) && !careful) {
        careful = true;
        continue;
      }
      if (thrown instanceof BrokenAtTheEnd) {
        careful = true;
        immediate = true;
        continue;
      }
      const getsInTheWay = thrown instanceof Failure && isCollision(thrown);
      if (!getsInTheWay || tries === mostTries) throw thrown;
      tries += 1;
      await sleep(Math.random() * 20 * 2 ** tries);
    }
  }
}

/** Deadlocks, and transactions that cannot be put in a row. */
function isCollision({ cause }: Failure): boolean {
  const { code } = (cause ?? {}) as { code?: unknown };
  return code === '40001' || code === '40P01';
}

interface Round extends SaveOptions {
  readonly careful: boolean;
  readonly immediate: boolean;
  readonly leftOut: LeftOut;
}

async function runOnce(
  { changes, count, refused, catalog }: CheckedSet,
  { mode, dryRun, careful, immediate, leftOut }: Round,
  saving: Saving,
  inside: Transaction,
  request: Request | undefined,
): Promise<SavedAnswer | LeftOut> {
  const { log, undoes } = saving;
  const run = await runSet(changes, inside, {
    catalog,
    careful,
    immediate,
    leftOut,
    undoes: undoes !== undefined,
  });
  const answers = new AnswerBuilder(changes, run, { catalog, count, refused });
  if (mode === 'all' && !answers.isWhole) throw new NotSaved(answers.refusal());
  if (mode === 'each' && run.broken.size > 0) return run.broken;
  try {
    // Else it is the commit that reports.
    if (careful || dryRun || mode === 'each') await inside.attempt(() => inside.settle());
  } catch (thrown) {
    if (!isRefusal(thrown)) throw thrown;
    // The change that is in the way is found by checking after each of them.
    if (mode === 'each' && !immediate) throw new BrokenAtTheEnd();
    throw new NotSaved(await answers.lateRefusal(thrown, inside));
  }
  const { name: transaction, server } = await inside.begun;
  const id = ChangeLog.newId();
  const answer = answers.saved(dryRun || run.made.length === 0 ? null : id);
  if (dryRun) throw new NotSaved(answer);
  const answered = answer.status === 200 ? answer.json : '';
  const hasEntries = saving.keep !== 'nothing' && run.made.length > 0;
  const remembered = log !== undefined && (request !== undefined || hasEntries);
  if (!remembered) {
    await inside.commit();
    return answer;
  }
  await log.begin({
    id,
    caller: saving.caller,
    transaction,
    server,
    ...(request && { request: { ...request, answer: answered } }),
    undoes,
    changes: saving.keep === 'nothing' ? [] : answers.log(saving.keep === 'values'),
  });
  await commitNoted({ id, transaction }, inside, { log, writer: saving.writer });
  return answer;
}

/** Commits what was noted. Where the connection breaks at that moment, the database is queried for the outcome. */
async function commitNoted(
  { id, transaction }: { readonly id: string; readonly transaction: string },
  inside: Transaction,
  way: { readonly log: ChangeLog; readonly writer: Writer },
): Promise<void> {
  const { log } = way;
  try {
    await inside.commit();
  } catch (thrown) {
    if (!(thrown instanceof Failure) || thrown.kind !== 'unavailable') {
      await log.settle(id, false);
      throw thrown;
    }
    const fate = await settled({ id, state: 'pending', transaction }, way).catch(() => 'pending');
    if (fate !== 'saved') throw thrown;
    return;
  }
  // Anyone who reads it before this is written asks the transaction itself.
  log.settle(id, true).catch(() => undefined);
}
