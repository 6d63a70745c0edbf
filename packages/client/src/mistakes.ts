import type { Row, WindowAnswer } from './answers.ts';

/** What a source is watched for. */
export interface Watched {
  /** The columns that identify a row. */
  readonly key?: readonly string[] | undefined;
  /** Told each mistake once; the console by default. */
  readonly tell?: ((message: string) => void) | undefined;
}

/** Keys named in a message at most. */
const mostNamed = 5;

/** Tells each message once, however often it is found. */
export class Mistakes {
  private readonly told = new Set<string>();
  private readonly say: (message: string) => void;

  constructor(tell?: (message: string) => void) {
    this.say = tell ?? ((message) => console.warn(`Ephoros: ${message}`));
  }

  tell(about: string, message: () => string): void {
    if (this.told.has(about)) return;
    this.told.add(about);
    this.say(message());
  }
}

/** Watches what a backend answers for the mistakes that are made most. */
export class AnswerWatch<Line> {
  private readonly mistakes: Mistakes;
  private readonly key: readonly string[] | undefined;
  /** The rows of the first window, to see whether all windows are the same. */
  private first: { readonly from: number; readonly texts: readonly string[] } | undefined;

  constructor({ key, tell }: Watched) {
    this.key = key;
    this.mistakes = new Mistakes(tell);
  }

  /** An answer to a window of `limit` rows from `from`; its rows as they came. */
  see(from: number, limit: number, { rows, window }: WindowAnswer<Line>): void {
    if (rows.length > limit) {
      this.mistakes.tell(
        'window',
        () =>
          `the backend ignores the window: asked for ${limit} rows from ${from} on, it answered ${rows.length}. Pass offset and limit on to the database.`,
      );
      return;
    }
    this.seeSame(from, rows);
    // What was counted at another moment may differ.
    const counted =
      window.totalKind === 'exact' && window.countedAt === undefined && window.cut !== true;
    if (counted) this.seeTotal(from, limit, rows.length, window.total);
    if (this.key !== undefined) this.seeKeys(this.key, rows);
  }

  /** Windows may look alike where rows do; where all rows differ they are the same ones. */
  private seeSame(from: number, rows: readonly Line[]): void {
    if (rows.length < 2) return;
    const texts = rows.map((row) => JSON.stringify(row));
    this.first ??= { from, texts };
    const { from: other, texts: first } = this.first;
    const same = other !== from && first.length === texts.length;
    if (!same || !texts.every((text, index) => text === first[index])) return;
    if (new Set(texts).size < texts.length) return;
    this.mistakes.tell(
      'same',
      () =>
        `the backend ignores the window: the rows from ${from} on are those from ${other} on. Pass the offset on to the database.`,
    );
  }

  private seeTotal(from: number, limit: number, count: number, total: number | null): void {
    if (total === null) return;
    if (from + count > total) {
      this.mistakes.tell(
        'total',
        () =>
          `the total does not match: there are ${total} rows, says the backend, and ${count} came from ${from} on. Count what the filter matches, not one window.`,
      );
    } else if (count < limit && from + count < total) {
      this.mistakes.tell(
        'total',
        () =>
          `the total does not match: of ${total} rows, says the backend, only ${count} came from ${from} on, and ${limit} were asked for. Count with the same filter as the rows.`,
      );
    }
  }

  private seeKeys(key: readonly string[], rows: readonly unknown[]): void {
    const seen = new Set<string>();
    const twice = new Set<string>();
    for (const row of rows) {
      const values = key.map((name) => (row as Row)[name] ?? null);
      const missing = key.find((_name, index) => values[index] === null);
      if (missing !== undefined) {
        this.mistakes.tell(
          'key',
          () =>
            `the key is missing: a row has no ${missing}. It has ${Object.keys(row as Row).join(', ')}. Ask for the key's columns as well, or name others as the key.`,
        );
        return;
      }
      const text = values.map(String).join(',');
      if (seen.has(text)) twice.add(text);
      seen.add(text);
    }
    if (twice.size === 0) return;
    this.mistakes.tell('key', () => {
      const named = [...twice].slice(0, mostNamed).join('; ');
      const more = twice.size > mostNamed ? ` and ${twice.size - mostNamed} more` : '';
      return `the key is not unique: several rows have the same ${key.join(', ')}: ${named}${more}. Name columns that tell all rows apart.`;
    });
  }
}
