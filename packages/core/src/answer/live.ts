import { z } from 'zod';

const keys = z.array(z.array(z.string())).meta({ description: 'Keys, each of its parts.' });

/** How much is reported of what others write. */
export const liveGrade = z.enum(['log', 'triggers', 'counters']).meta({
  description:
    '"log": which rows, within a second, from the log of the server, where the table is published in it and the role may follow it; "triggers": the same, where the owner of the table has added the triggers for that; "counters": that something was written, a few seconds late.',
});

/** The events of `/live`, by name, and what each has as its data. */
export const liveEvents = {
  /** Once, at the beginning, and whenever it is another one. */
  grade: z.object({ grade: liveGrade }).meta({ id: 'LiveGrade' }),
  /** Rows of the question that others have written. */
  changed: z
    .object({
      added: keys,
      changed: keys,
      removed: keys.meta({ description: 'Rows that are of the question no longer.' }),
    })
    .meta({ id: 'LiveChanges' }),
  /** Something was written; which rows is not known, or they are too many to be reported. */
  written: z.object({}).meta({ id: 'LiveWritten' }),
} as const;

export type LiveGrade = z.infer<typeof liveGrade>;
export type LiveChanges = z.infer<typeof liveEvents.changed>;
