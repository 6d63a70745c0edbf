import type { FileProgress } from '@ephoros/core/answer';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import type { PlannedExport } from '../engine/index.ts';
import type { FileProgressStore } from '../export/index.ts';

/** Letters, digits, `-` and `_`: enough that nobody guesses one. */
const form = /^[\w-]{8,64}$/;

/** What is wrong with a ticket. */
export function ticketProblems(ticket: string | undefined): readonly Problem[] {
  if (ticket === undefined || form.test(ticket)) return [];
  const facts = { type: 'ticket', notation: '8 to 64 letters, digits, - and _' };
  return inParameter('ticket', [problem('invalid-value', facts, { start: 0, end: ticket.length })]);
}

/** Where a caller's ticket stands on the board: nobody else reads it, whatever they guess. */
export function placeOf(ticket: string, caller: string | undefined): string {
  return JSON.stringify([caller ?? '', ticket]);
}

/** Ms between two words about the same file. */
const between = 100;

/**
 * Writes a file, and reports its progress to a store. Rejects as writing does.
 * @param isGone whether its reader has gone away, who has a part of it then
 */
export async function writeProgress(
  { write, rows: of, about }: PlannedExport,
  sink: Parameters<PlannedExport['write']>[0],
  progressStore: FileProgressStore,
  place: string | undefined,
  isGone: () => boolean,
): Promise<number> {
  if (place === undefined) return write(sink);
  let written = 0;
  let last = 0;
  const notify = (state: FileProgress['state']): void =>
    progressStore.report(place, { state, rows: written, of: of ?? null, about: about ?? null });
  notify('waiting');
  try {
    written = await write(sink, (rows) => {
      written = rows;
      if (Date.now() - last < between) return;
      last = Date.now();
      notify('writing');
    });
    notify(isGone() ? 'broken' : 'done');
    return written;
  } catch (thrown) {
    notify('broken');
    throw thrown;
  }
}
