const quote = 0x22;
const lineFeed = 0x0a;

/** Counts the records of a file as it comes: a line break between quotes ends none. */
export class RecordCounter {
  /** Bytes up to the end of the last record. */
  whole = 0;
  private records = 0;
  private passed = 0;
  private isQuoted = false;
  private readonly isCsv: boolean;
  private readonly headers: number;

  constructor(format: string, header: string | undefined) {
    this.isCsv = format === 'csv';
    this.headers = this.isCsv && header !== 'none' ? 1 : 0;
  }

  get rows(): number {
    return Math.max(0, this.records - this.headers);
  }

  take(piece: Uint8Array): void {
    for (let at = 0; at < piece.length; at += 1) {
      const byte = piece[at];
      if (byte === quote && this.isCsv) this.isQuoted = !this.isQuoted;
      else if (byte === lineFeed && !this.isQuoted) {
        this.records += 1;
        this.whole = this.passed + at + 1;
      }
    }
    this.passed += piece.length;
  }
}
