import type { Catalog } from '../catalog/index.ts';
import { Refused } from '../query/index.ts';
import { Failure } from '../run/index.ts';

export interface CurrentCatalogOptions {
  /** Called when the catalog could not be read again, and the last one stays in force. */
  readonly onFailure?: (thrown: unknown) => void;
  /** Ms after which the catalog is read again, behind the next request; 30,000 by default. */
  readonly age?: number;
  /** A text that is another one after the database has changed: what has not changed is not read again. */
  readonly mark?: (() => Promise<string>) | undefined;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** Times in a row that a mark alone is looked at. */
const mostLooks = 10;

/** Ms within which a name that is not known is not looked for in the database again. */
const settled = 1_000;

/** What the role of changes may write could not be read yet: it is read again before this is answered. */
export class GrantsUnknown extends Failure {
  constructor() {
    super('unavailable');
  }
}

/** The catalog as it was read last, once for all who ask; the last good one stays in force. */
export class CurrentCatalog {
  private readonly readFresh: () => Promise<Catalog>;
  private readonly options: Required<Omit<CurrentCatalogOptions, 'mark'>>;
  private readonly markOf: CurrentCatalogOptions['mark'];
  /** Before the last reading. */
  private mark: string | undefined;
  private looks = 0;
  private current: Catalog | undefined;
  /** When the last reading was begun. */
  private readAt = 0;
  private reading: Promise<Catalog> | undefined;

  constructor(readFresh: () => Promise<Catalog>, options: CurrentCatalogOptions = {}) {
    this.readFresh = readFresh;
    this.markOf = options.mark;
    this.options = { onFailure: () => undefined, age: 30_000, now: Date.now, ...options };
  }

  /** A failed first reading is tried again by the next who asks. @throws ConfigurationError, Failure */
  read = (): Promise<Catalog> => {
    if (this.current === undefined) return this.renew();
    if (this.options.now() - this.readAt >= this.options.age) {
      this.look().catch(() => undefined);
    }
    return Promise.resolve(this.current);
  };

  /**
   * Reads the catalog again where a failure may have come of a change in the database: a column of
   * another type, a name that was not there before. Whether there is another catalog now.
   */
  renewedAfter = async (thrown: unknown): Promise<boolean> => {
    const before = this.current;
    if (before === undefined || !this.mayReportChange(thrown)) return false;
    const after = await this.renew().catch(() => before);
    return after !== before;
  };

  private mayReportChange(thrown: unknown): boolean {
    if (thrown instanceof GrantsUnknown) return true;
    if (thrown instanceof Failure) {
      return thrown.kind === 'changed' || thrown.kind === 'mismatched';
    }
    if (!(thrown instanceof Refused)) return false;
    // The caller for what is not there has the database requested no more than once a second.
    if (this.options.now() - this.readAt < settled) return false;
    return thrown.problems.some(({ code }) => unknownNames.has(code));
  }

  /** Has the catalog read again, unless nothing has changed since. */
  private async look(): Promise<void> {
    this.readAt = this.options.now();
    if (
      this.current?.isWritableKnown === true &&
      this.looks < mostLooks &&
      this.reading === undefined
    ) {
      this.looks += 1;
      const mark = await this.markOf?.().catch(() => undefined);
      if (mark !== undefined && mark === this.mark) return;
    }
    await this.renew();
  }

  private renew(): Promise<Catalog> {
    this.reading ??= this.readOnce().finally(() => {
      this.reading = undefined;
    });
    return this.reading;
  }

  private async readOnce(): Promise<Catalog> {
    this.readAt = this.options.now();
    try {
      this.looks = 0;
      this.mark = await this.markOf?.().catch(() => undefined);
      const found = await this.readFresh();
      // The same catalog stays the same object: what was made of its descriptions is stored by it.
      const { current } = this;
      const previous = current?.fingerprint === found.fingerprint ? current : found;
      this.current = previous;
      return previous;
    } catch (thrown) {
      if (this.current !== undefined) {
        this.options.onFailure(thrown);
        return this.current;
      }
      throw thrown instanceof Error && thrown.name === 'ConfigurationError'
        ? thrown
        : Failure.from(thrown);
    }
  }
}

const unknownNames: ReadonlySet<string> = new Set([
  'unknown-table',
  'unknown-column',
  'unknown-relationship',
  'unknown-enum-value',
]);
