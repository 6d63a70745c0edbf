import { z } from 'zod';

export const writtenAnswer = z
  .object({
    table: z.string(),
    mark: z.string().nullable().meta({
      description:
        'Another one once something was written to what the question reads, a few seconds late; null where nobody can tell, as of views.',
    }),
  })
  .meta({ id: 'Written' });

/** Whether anything was written to what a question reads: reported by comparing two of them. */
export type WrittenAnswer = Readonly<z.infer<typeof writtenAnswer>>;

export const simulationAnswer = z
  .object({
    on: z.boolean().meta({ description: 'Whether requests may ask for slowness and failures.' }),
    delay: z.number().exactOptional().meta({ description: 'Ms before each answer.' }),
    fail: z.number().exactOptional().meta({ description: 'The share that fails, 0 to 1.' }),
  })
  .meta({ id: 'Simulation' });
