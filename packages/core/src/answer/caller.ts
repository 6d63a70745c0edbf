import { z } from 'zod';

export const callerAnswer = z
  .object({
    name: z.string().nullable().meta({ description: 'Null where callers are not distinguished.' }),
    title: z.string().nullable().meta({ description: 'What people read.' }),
    roles: z.array(z.string()),
    may: z
      .object({
        exports: z.boolean().meta({ description: 'To take rows out as files.' }),
        explanations: z.boolean().meta({ description: 'To ask how an answer came about.' }),
        views: z.union([z.boolean(), z.literal('open')]).meta({
          description: 'To keep views; "open": to open those that others have shared.',
        }),
        metrics: z.boolean(),
      })
      .meta({
        description: 'Beside reading and changing rows, of which the descriptions of tables tell.',
      }),
    expiresAt: z.iso.datetime().nullable(),
    canSignOut: z.boolean().meta({ description: 'Whether this is somebody at a browser.' }),
  })
  .meta({ id: 'Caller' });

/** Who asks, and what they may do next to reading. */
export type CallerAnswer = z.infer<typeof callerAnswer>;
