import { isPlaceable, widthOf, widthOfKind, type PlaceKind } from './place-codec.ts';

/** Bytes before the first row: a signature, flags, and the length of what may follow them. */
const signature = 15;

/**
 * Reads keys that the database writes out itself (COPY, PostgreSQL's manual, binary format), piece by piece. Nothing is
 * made of a row but its bytes: a hundred million of them pass by.
 */
export class CopiedKeys {
  /** Whether the end was stated. */
  isEnded = false;
  private readonly kinds: readonly PlaceKind[];
  private readonly width: number;
  private readonly row: number;
  private isBegun = false;
  private rest: Buffer = Buffer.alloc(0);
  private made: Buffer = Buffer.alloc(0);

  constructor(kinds: readonly PlaceKind[]) {
    this.kinds = kinds;
    this.width = widthOf(kinds);
    this.row = 2 + 4 * kinds.length + this.width;
  }

  /** The entries of a piece, which are good until the next one; undefined where a value has no room in a place. */
  read(piece: Buffer): Buffer | undefined {
    const bytes = this.rest.length === 0 ? piece : Buffer.concat([this.rest, piece]);
    let at = this.begin(bytes);
    const room = Math.ceil(bytes.length / this.row) * this.width;
    if (this.made.length < room) this.made = Buffer.alloc(room);
    let length = 0;
    while (this.isBegun && !this.isEnded && at + 2 <= bytes.length) {
      const fields = bytes.readInt16BE(at);
      if (fields === -1) {
        this.isEnded = true;
        at = bytes.length;
      } else if (at + this.row > bytes.length) break;
      else if (!this.take(bytes, at + 2, length)) return undefined;
      else {
        at += this.row;
        length += this.width;
      }
    }
    // A copy: the piece itself may be large, and is not stored.
    this.rest = Buffer.from(bytes.subarray(at));
    return this.made.subarray(0, length);
  }

  private begin(bytes: Buffer): number {
    if (this.isBegun || bytes.length < signature + 4) return 0;
    const end = signature + 4 + bytes.readInt32BE(signature);
    if (bytes.length < end) return 0;
    this.isBegun = true;
    return end;
  }

  private take(from: Buffer, first: number, into: number): boolean {
    let at = first;
    let to = into;
    for (const kind of this.kinds) {
      const width = widthOfKind(kind);
      // Null has no length.
      if (from.readInt32BE(at) !== width || !isPlaceable(kind, from, at + 4)) return false;
      for (let byte = 0; byte < width; byte += 1) this.made[to + byte] = from[at + 4 + byte] ?? 0;
      at += 4 + width;
      to += width;
    }
    return true;
  }
}
