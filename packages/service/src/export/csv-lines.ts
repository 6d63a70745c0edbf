const quote = 0x22;
const lineFeed = 0x0a;
const carriageReturn = 0x0d;

/**
 * Counts the records of CSV as it comes in pieces, and ends each with CRLF where that is wanted: a line break within
 * quotes is part of a value and stays as it is.
 */
export class CsvLines {
  /** Records so far that have come to their end. */
  count = 0;
  private isQuoted = false;
  private readonly asWindows: boolean;

  constructor(asWindows: boolean) {
    this.asWindows = asWindows;
  }

  /** A piece with the line ends that are wanted. */
  take(piece: Buffer): Buffer {
    // A line has one byte at least, which is its end.
    const made = this.asWindows ? Buffer.allocUnsafe(piece.length * 2) : piece;
    let length = 0;
    let from = 0;
    let at = 0;
    let nextQuote = piece.indexOf(quote);
    for (;;) {
      if (this.isQuoted) {
        if (nextQuote === -1) break;
        at = nextQuote + 1;
        this.isQuoted = false;
        nextQuote = piece.indexOf(quote, at);
        continue;
      }
      const end = piece.indexOf(lineFeed, at);
      if (nextQuote !== -1 && (end === -1 || nextQuote < end)) {
        at = nextQuote + 1;
        this.isQuoted = true;
        nextQuote = piece.indexOf(quote, at);
        continue;
      }
      if (end === -1) break;
      this.count += 1;
      if (this.asWindows) {
        length += piece.copy(made, length, from, end);
        made[length] = carriageReturn;
        length += 1;
        from = end;
      }
      at = end + 1;
    }
    if (!this.asWindows) return piece;
    length += piece.copy(made, length, from);
    return made.subarray(0, length);
  }
}
