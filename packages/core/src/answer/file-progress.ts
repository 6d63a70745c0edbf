import { z } from 'zod';

export const fileProgress = z
  .object({
    state: z.enum(['waiting', 'writing', 'done', 'broken']).meta({
      description:
        'Whether the file waits for others, is being written, is whole, or was broken off.',
    }),
    rows: z.int().meta({ description: 'Rows, or lines of groups, written so far.' }),
    of: z.int().nullable().meta({
      description: 'Of how many; null where they were not counted beforehand.',
    }),
    about: z.int().nullable().meta({ description: 'About how many, where they are not counted.' }),
  })
  .meta({ id: 'FileProgress', description: 'How far a file is that is taken out.' });

/** How far a file is that is taken out. */
export type FileProgress = Readonly<z.infer<typeof fileProgress>>;
