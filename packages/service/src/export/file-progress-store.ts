import type { FileProgress } from '@ephoros/core/answer';
import { LRUCache } from 'lru-cache';

/** Where it stands how far files are, by the ticket that their reader has given them. */
export interface FileProgressStore {
  report(ticket: string, progress: FileProgress): void;
  progressOf(ticket: string): Promise<FileProgress | undefined>;
}

/** The number of exports with progress at most, and ms for which it is stored after the last update. */
const mostListed = 1_000;
const remembered = 15 * 60_000;

/** The board of one process, or of one that leads others. */
export function localFileProgressStore(): FileProgressStore {
  const known = new LRUCache<string, FileProgress>({ max: mostListed, ttl: remembered });
  return {
    report: (ticket, progress) => void known.set(ticket, progress),
    progressOf: (ticket) => Promise.resolve(known.get(ticket)),
  };
}
