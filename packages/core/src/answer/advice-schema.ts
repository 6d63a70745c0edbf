import { z } from 'zod';

/** Which indexes a question about rows would want. */
export const adviceAnswer = z
  .object({
    table: z.string(),
    advice: z.array(
      z.object({
        kind: z.enum(['ordered', 'trigrams', 'words']).meta({
          description: 'A B-tree; parts of texts (pg_trgm); texts by the words of a language.',
        }),
        table: z.string().meta({ description: 'The table that it is of: also a related one.' }),
        statement: z
          .string()
          .meta({ description: 'What makes it. It is never run by the service.' }),
        equal: z.array(z.string()).meta({ description: 'Columns compared with one value.' }),
        columns: z.array(z.string()).meta({ description: 'All of its columns, in their order.' }),
        served: z.string().nullable().meta({ description: 'The index that serves already.' }),
        size: z.int().meta({ description: 'In bytes, about.' }),
        cost: z
          .object({ without: z.number(), with: z.number().exactOptional() })
          .exactOptional()
          .meta({
            description:
              "The planner's cost of the question as it is, and with the index (hypopg).",
          }),
      }),
    ),
  })
  .meta({ id: 'Advice' });

export type AdviceAnswer = Readonly<z.infer<typeof adviceAnswer>>;
