import { randomUUID } from 'node:crypto';
import { open, unlink, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';

/** Entries that are written, and looked through, at once. */
const chunkEntries = 32_768;
/** Chunks that are stored to be filled again. */
const mostSpare = 2;

/**
 * A list of entries of one size in a file that has no name: it is gone with the process, however that
 * ends. Written at its end, read anywhere, also what has not reached the file yet.
 */
export class EntryFile {
  /** Entries so far. */
  length = 0;
  private readonly width: number;
  private readonly handle: FileHandle;
  private current: Buffer;
  /** Full chunks on their way into the file, by number. */
  private readonly leaving = new Map<number, Buffer>();
  /** Chunks that are in the file, to be filled again: memory given back one by one is taken up late. */
  private readonly spare: Buffer[] = [];
  private writing: Promise<void> = Promise.resolve();
  private failure: Error | undefined;
  private closed = false;

  private constructor(handle: FileHandle, width: number) {
    this.handle = handle;
    this.width = width;
    this.current = this.chunk();
  }

  /** @param width bytes of an entry. Throws where the folder takes no file. */
  static async create(folder: string, width: number): Promise<EntryFile> {
    const path = join(folder, `ephoros-places-${randomUUID()}`);
    const handle = await open(path, 'wx+', 0o600);
    try {
      await unlink(path);
    } catch (thrown) {
      await handle.close();
      throw thrown;
    }
    return new EntryFile(handle, width);
  }

  /** Bytes that it takes up. */
  get bytes(): number {
    return this.length * this.width;
  }

  /** Adds an entry; `write` puts its bytes into a buffer, and says whether it could. */
  add(write: (into: Buffer, at: number) => boolean): boolean {
    const within = this.length % chunkEntries;
    if (!write(this.current, within * this.width)) return false;
    this.length += 1;
    if (within + 1 === chunkEntries) this.flush(Math.floor((this.length - 1) / chunkEntries));
    return true;
  }

  /** Adds entries that are there as bytes, one behind the other. */
  addAll(entries: Buffer): void {
    for (let done = 0; done < entries.length;) {
      const within = (this.length % chunkEntries) * this.width;
      const bytes = Math.min(this.current.length - within, entries.length - done);
      entries.copy(this.current, within, done, done + bytes);
      this.length += bytes / this.width;
      done += bytes;
      if (this.length % chunkEntries === 0)
        this.flush(Math.floor((this.length - 1) / chunkEntries));
    }
  }

  /** Resolves when few chunks are on their way into the file; undefined where that is so. */
  drained(): Promise<void> | undefined {
    return this.leaving.size > mostSpare ? this.writing : undefined;
  }

  /** Entries from one on, as many as there are; one buffer. Throws where the file fails. */
  async read(from: number, count: number): Promise<Buffer> {
    const end = Math.min(this.length, from + count);
    const pieces: Buffer[] = [];
    for (let at = from; at < end;) {
      const number = Math.floor(at / chunkEntries);
      const until = Math.min(end, (number + 1) * chunkEntries);
      pieces.push(await this.piece(number, at % chunkEntries, until - at));
      at = until;
    }
    return Buffer.concat(pieces);
  }

  /** The number of an entry; undefined where there is none. Looks first where `hint` says. */
  async find(entry: Buffer, hint = 0): Promise<number | undefined> {
    const chunks = Math.ceil(this.length / chunkEntries);
    const begin = Math.min(chunks - 1, Math.max(0, Math.floor(hint / chunkEntries)));
    // Outward from the hint.
    for (let far = 0; far <= chunks; far += 1) {
      const near = far === 0 ? [begin] : [begin + far, begin - far];
      for (const number of near) {
        if (number < 0 || number >= chunks) continue;
        const piece = await this.read(number * chunkEntries, chunkEntries);
        const at = this.within(piece, entry);
        if (at !== undefined) return number * chunkEntries + at;
      }
    }
    return undefined;
  }

  /** Bytes that it takes up in memory. */
  get held(): number {
    return this.current.length + this.leaving.size * chunkEntries * this.width;
  }

  /**
   * Waits until everything has reached the file but its end, of which no more than is needed is held. Nothing is
   * added any more. Throws where the file does not take it.
   */
  async seal(): Promise<void> {
    await this.writing;
    if (this.failure !== undefined) throw this.failure;
    this.current = Buffer.from(this.current.subarray(0, (this.length % chunkEntries) * this.width));
    this.spare.length = 0;
  }

  async close(): Promise<void> {
    if (this.closed) return;
    this.closed = true;
    await this.writing;
    await this.handle.close();
  }

  private within(piece: Buffer, entry: Buffer): number | undefined {
    for (let at = piece.indexOf(entry); at !== -1; at = piece.indexOf(entry, at + 1)) {
      if (at % this.width === 0) return at / this.width;
    }
    return undefined;
  }

  private async piece(number: number, first: number, count: number): Promise<Buffer> {
    const [from, bytes] = [first * this.width, count * this.width];
    const held =
      number === Math.floor(this.length / chunkEntries) ? this.current : this.leaving.get(number);
    if (held !== undefined) return Buffer.from(held.subarray(from, from + bytes));
    if (this.closed) throw new Error('the file is closed');
    const piece = Buffer.alloc(bytes);
    const at = number * chunkEntries * this.width + from;
    const { bytesRead } = await this.handle.read(piece, 0, bytes, at);
    if (bytesRead < bytes) throw new Error('the file is shorter than it was');
    return piece;
  }

  private flush(number: number): void {
    const full = this.current;
    this.leaving.set(number, full);
    this.current = this.chunk();
    const at = number * chunkEntries * this.width;
    this.writing = this.writing.then(async () => {
      if (this.failure !== undefined || this.closed) return;
      try {
        for (let done = 0; done < full.length;) {
          const { bytesWritten } = await this.handle.write(
            full,
            done,
            full.length - done,
            at + done,
          );
          done += bytesWritten;
        }
        this.leaving.delete(number);
        if (this.spare.length < mostSpare) this.spare.push(full);
      } catch (thrown) {
        this.failure = thrown instanceof Error ? thrown : new Error(String(thrown));
      }
    });
  }

  private chunk(): Buffer {
    return this.spare.pop() ?? Buffer.alloc(chunkEntries * this.width);
  }
}
