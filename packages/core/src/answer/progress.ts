import { z } from 'zod';

export const progress = z
  .object({
    share: z.number().meta({ description: 'Of the whole, 0 to 1, as far as it can be estimated.' }),
    elapsed: z.number().meta({ description: 'Ms since it was begun.' }),
    rows: z.int().exactOptional().meta({ description: 'Rows passed so far.' }),
    of: z.int().exactOptional().meta({ description: 'Of how many, about.' }),
  })
  .meta({ id: 'Progress', description: 'How far something is that takes long.' });

/** How far something is that takes long. */
export type Progress = Readonly<z.infer<typeof progress>>;

export const scanned = z
  .object({
    rows: z.int().meta({ description: 'Rows looked through so far.' }),
    of: z.int().meta({ description: 'Of how many, about.' }),
  })
  .meta({
    description:
      'The result is still being looked for, slice by slice along its order: these rows and this total are what was found so far. Ask again, or go on at `next`.',
  });
