import { Warnings } from '@ephoros/core/warning';
import type { Row, WindowAnswer } from '@ephoros/core/answer';

/** What a source is watched for. */
export interface Watched {
  /** The columns that identify a row. */
  readonly key?: readonly string[] | undefined;
  /** Called once for each error; writes to the console by default. */
  readonly onWarning?: ((message: string) => void) | undefined;
}

/** Keys named in a message at most. */
const mostNamed = 5;

function inConsole(message: string): void {
  console.warn(`Ephoros: ${message}`);
}

/** Watches what a backend answers for the errors that are made most. */
export class AnswerWatch<Line> {
  private readonly warnings: Warnings;
  private readonly key: readonly string[] | undefined;
  /** The rows of the first window, to see whether all windows are the same. */
  private first: { readonly from: number; readonly texts: readonly string[] } | undefined;

  constructor({ key, onWarning }: Watched) {
    this.key = key;
    this.warnings = new Warnings(onWarning ?? inConsole);
  }

  /** An answer to a window of `limit` rows from `from`; its rows as they came. */
  see(from: number, limit: number, { rows, window }: WindowAnswer<Line>): void {
    if (rows.length > limit) {
      this.warnings.report(
        'window',
        () =>
          `the backend ignores the window: for ${limit} rows from ${from} on it returned ${rows.length} rows. Pass offset and limit on to the database.`,
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
    this.warnings.report(
      'same',
      () =>
        `the backend ignores the window: the rows from ${from} on are those from ${other} on. Pass the offset on to the database.`,
    );
  }

  private seeTotal(from: number, limit: number, count: number, total: number | null): void {
    if (total === null) return;
    if (from + count > total) {
      this.warnings.report(
        'total',
        () =>
          `the total does not match: there are ${total} rows, says the backend, and ${count} came from ${from} on. Count what the filter matches, not one window.`,
      );
    } else if (count < limit && from + count < total) {
      this.warnings.report(
        'total',
        () =>
          `the total does not match: of ${total} rows, says the backend, only ${count} came from ${from} on, and ${limit} were asked for. Count with the same filter as the rows.`,
      );
    }
  }

  private seeKeys(key: readonly string[], rows: readonly unknown[]): void {
    const visible = new Set<string>();
    const twice = new Set<string>();
    for (const row of rows) {
      const values = key.map((name) => (row as Row)[name] ?? null);
      const missing = key.find((_name, index) => values[index] === null);
      if (missing !== undefined) {
        this.warnings.report(
          'key',
          () =>
            `the key is missing: a row has no ${missing}. It has ${Object.keys(row as Row).join(', ')}. Ask for the key's columns as well, or name others as the key.`,
        );
        return;
      }
      const text = values.map(String).join(',');
      if (visible.has(text)) twice.add(text);
      visible.add(text);
    }
    if (twice.size === 0) return;
    this.warnings.report('key', () => {
      const named = [...twice].slice(0, mostNamed).join('; ');
      const more = twice.size > mostNamed ? ` and ${twice.size - mostNamed} more` : '';
      return `the key is not unique: several rows have the same ${key.join(', ')}: ${named}${more}. Name columns that tell all rows apart.`;
    });
  }
}
