import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { and, asc, eq, gt, isNull, lt, or } from 'drizzle-orm';
import { LRUCache } from 'lru-cache';
import { endWithAll } from './ending.ts';
import { newId } from './new-id.ts';
import type { Records } from './records.ts';
import { tokens } from './schema.ts';
import { SharedKey } from './shared-key.ts';

/** A token that was given out, without what it is made of. */
export interface StoredToken {
  readonly id: string;
  /** Who comes by it. */
  readonly name: string;
  readonly roles: readonly string[];
  readonly claims: Readonly<Record<string, unknown>>;
  /** Whether a person lets a program ask as them by it, with their name and roles and nothing more. */
  readonly forPerson: boolean;
  readonly createdAt: Date;
  /** Undefined where it does not end by itself. */
  readonly expiresAt: Date | undefined;
  readonly revokedAt: Date | undefined;
  readonly usedAt: Date | undefined;
}

export interface NewToken {
  readonly name: string;
  readonly roles: readonly string[];
  readonly claims?: Readonly<Record<string, unknown>>;
  readonly forPerson?: boolean;
  readonly expiresAt?: Date | undefined;
  /** The session in which a program was let in. */
  readonly session?: string;
  /** What it is exchanged for. */
  readonly code?: string;
}

/** A code was exchanged before. */
export class CodeUsed extends Error {}

/** What all tokens begin with, so that they are found where they should not be. */
const head = 'ephoros_';
const form = /^(ephoros_([\w-]{12})_[\w-]{43})([\w-]{8})$/;

/** Ms between two notes that a token is in use. */
const noted = 60_000;
/** Tokens whose last note is remembered. */
const mostNoted = 10_000;

/** Whether a text looks like a token that this service could have given out. */
export function isOwnToken(text: string): boolean {
  return text.startsWith(head);
}

/** The tokens that the service gives out. All throw RecordsError, Failure. */
export class Tokens {
  private readonly records: Records;
  private readonly now: () => number;
  /** Of the marks at the end of all tokens. */
  private readonly key: SharedKey;
  private readonly notes = new LRUCache<string, number>({ max: mostNoted });

  constructor(records: Records, now: () => number = Date.now) {
    this.records = records;
    this.now = now;
    this.key = new SharedKey(records, 'marks of tokens');
  }

  /** Makes a token; its text is returned this once, and stored nowhere. @throws CodeUsed */
  async add({
    name,
    roles,
    claims = {},
    forPerson = false,
    expiresAt,
    session,
    code,
  }: NewToken): Promise<{
    readonly token: StoredToken;
    readonly text: string;
  }> {
    // Of letters that \w has, so that the parts are distinguished.
    const id = newId(9).replaceAll('_', '-');
    const unmarked = `${head}${id}_${randomBytes(32).toString('base64url')}`;
    const text = unmarked + markOf(unmarked, await this.key.read());
    const row = {
      id,
      name,
      hash: hashOf(text),
      roles: JSON.stringify(roles),
      claims: JSON.stringify(claims),
      forPerson,
      createdAt: new Date(this.now()),
      expiresAt: expiresAt ?? null,
      session: session ?? null,
      code: code === undefined ? null : hashOf(code),
    };
    const [made] = await this.records.use((database) =>
      database.insert(tokens).values(row).onConflictDoNothing({ target: tokens.code }).returning(),
    );
    if (made === undefined) throw new CodeUsed();
    return { token: tokenOf(made), text };
  }

  /** All of them, by name; those that no longer count are left out unless they are requested. */
  async list(ended = false): Promise<readonly StoredToken[]> {
    const now = new Date(this.now());
    const rows = await this.records.use((database) =>
      database
        .select()
        .from(tokens)
        .where(
          ended
            ? undefined
            : and(
                isNull(tokens.revokedAt),
                or(isNull(tokens.expiresAt), gt(tokens.expiresAt, now)),
              ),
        )
        .orderBy(asc(tokens.name), asc(tokens.createdAt)),
    );
    return rows.map(tokenOf);
  }

  /**
   * Ends a token by its id, or all of a name, with the sessions that were begun by them and the tokens of programs that
   * were let in during those. Gives the tokens that were in force until now, and how many sessions were.
   */
  async revoke(
    idOrName: string,
  ): Promise<{ readonly tokens: readonly StoredToken[]; readonly sessions: readonly string[] }> {
    const meant = or(eq(tokens.id, idOrName), eq(tokens.name, idOrName));
    const ended = await this.records.use((database) =>
      endWithAll(database, { tokens: meant }, new Date(this.now())),
    );
    return { tokens: ended.tokens.map(tokenOf), sessions: ended.sessions };
  }

  /**
   * Whether these records can have given a token out, as its mark shows: what somebody has made up is known by that
   * without looking for it.
   */
  async isPlausible(text: string): Promise<boolean> {
    const [, unmarked, , mark] = form.exec(text) ?? [];
    if (unmarked === undefined || mark === undefined) return false;
    return isSame(mark, markOf(unmarked, await this.key.read()));
  }

  /** The token with this text, while it counts. */
  async find(text: string): Promise<StoredToken | undefined> {
    const id = form.exec(text)?.[2];
    if (id === undefined || !(await this.isPlausible(text))) return undefined;
    const [row] = await this.records.use((database) =>
      database.select().from(tokens).where(eq(tokens.id, id)),
    );
    if (row === undefined || !isSame(row.hash, hashOf(text))) return undefined;
    const token = tokenOf(row);
    return isInForce(token, this.now()) ? token : undefined;
  }

  /** Notes that a token is in use, once a minute. */
  async note({ id }: StoredToken): Promise<void> {
    const now = this.now();
    if (now - (this.notes.get(id) ?? -Infinity) < noted) return;
    this.notes.set(id, now);
    const before = new Date(now - noted);
    await this.records.use((database) =>
      database
        .update(tokens)
        .set({ usedAt: new Date(now) })
        .where(and(eq(tokens.id, id), or(isNull(tokens.usedAt), lt(tokens.usedAt, before)))),
    );
  }
}

/** Whether a token counts at a time. */
export function isInForce({ expiresAt, revokedAt }: StoredToken, now: number): boolean {
  return revokedAt === undefined && (expiresAt === undefined || expiresAt.getTime() > now);
}

/** A token is of 256 random bits: nobody finds it by trying, so that a quick hash is enough. */
function hashOf(text: string): string {
  return createHash('sha256').update(text).digest('base64url');
}

function markOf(unmarked: string, key: Uint8Array): string {
  return createHmac('sha256', key).update(unmarked).digest('base64url').slice(0, 8);
}

function isSame(one: string, other: string): boolean {
  const [first, second] = [Buffer.from(one), Buffer.from(other)];
  return first.length === second.length && timingSafeEqual(first, second);
}

function tokenOf(row: typeof tokens.$inferSelect): StoredToken {
  const { id, name, forPerson, createdAt } = row;
  return {
    id,
    name,
    roles: JSON.parse(row.roles) as readonly string[],
    claims: JSON.parse(row.claims) as Readonly<Record<string, unknown>>,
    forPerson,
    createdAt,
    expiresAt: row.expiresAt ?? undefined,
    revokedAt: row.revokedAt ?? undefined,
    usedAt: row.usedAt ?? undefined,
  };
}
