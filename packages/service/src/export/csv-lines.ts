import { RecordEnds } from '@ephoros/core/file';

const carriageReturn = 0x0d;

/** Counts the records of CSV as it comes in pieces, and ends each with CRLF where that is wanted. */
export class CsvLines {
  private readonly records = new RecordEnds('csv');
  private readonly asWindows: boolean;

  constructor(asWindows: boolean) {
    this.asWindows = asWindows;
  }

  get count(): number {
    return this.records.count;
  }

  /** A piece with the line ends that are wanted. */
  take(piece: Buffer): Buffer {
    const ends = this.records.take(piece);
    if (!this.asWindows) return piece;
    const made = Buffer.allocUnsafe(piece.length + ends.length);
    let length = 0;
    let from = 0;
    for (const end of ends) {
      length += piece.copy(made, length, from, end);
      made[length] = carriageReturn;
      length += 1;
      from = end;
    }
    piece.copy(made, length, from);
    return made;
  }
}
