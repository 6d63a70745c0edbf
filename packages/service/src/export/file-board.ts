import type { FileProgress } from '@ephoros/core/answer';
import { LRUCache } from 'lru-cache';

/** Where it stands how far files are, by the ticket that their reader has given them. */
export interface FileBoard {
  tell(ticket: string, progress: FileProgress): void;
  told(ticket: string): Promise<FileProgress | undefined>;
}

/** Files that are told of at most, and for how long after the last word of each, in ms. */
const mostTold = 1_000;
const remembered = 15 * 60_000;

/** The board of one process, or of one that leads others. */
export function localFileBoard(): FileBoard {
  const known = new LRUCache<string, FileProgress>({ max: mostTold, ttl: remembered });
  return {
    tell: (ticket, progress) => void known.set(ticket, progress),
    told: (ticket) => Promise.resolve(known.get(ticket)),
  };
}
