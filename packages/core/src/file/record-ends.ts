const quote = 0x22;
const lineFeed = 0x0a;

/**
 * Finds where the records of a file end, as it comes in pieces: at line feeds, and in CSV (RFC 4180) not at those within
 * quotes, which are part of a value.
 */
export class RecordEnds {
  /** Records so far that have come to their end. */
  count = 0;
  private isQuoted = false;
  private readonly quotes: boolean;

  constructor(format: 'csv' | 'lines') {
    this.quotes = format === 'csv';
  }

  /** The places of the line feeds in a piece that end a record. */
  take(piece: Uint8Array): readonly number[] {
    const ends: number[] = [];
    let at = 0;
    let nextQuote = this.quotes ? piece.indexOf(quote) : -1;
    for (;;) {
      const end = this.isQuoted ? -1 : piece.indexOf(lineFeed, at);
      if (nextQuote !== -1 && (end === -1 || nextQuote < end)) {
        at = nextQuote + 1;
        this.isQuoted = !this.isQuoted;
        nextQuote = piece.indexOf(quote, at);
        continue;
      }
      if (end === -1) break;
      ends.push(end);
      at = end + 1;
    }
    this.count += ends.length;
    return ends;
  }
}
