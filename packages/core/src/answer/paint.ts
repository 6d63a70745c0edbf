import { z } from 'zod';
import { mostPaintRules, tones } from '../schema/index.ts';

const name = z.string().min(1).meta({ description: 'A column, also a related one: lock.name.' });

const ends = { from: z.number().optional(), to: z.number().optional() };

/** Rules from conditions to looks, as they are written in views and in a configuration. */
export const paintSchema = z
  .array(
    z.union([
      z.strictObject({
        when: z.string().min(1).meta({ description: 'A condition: toll > 100.' }),
        tone: z.enum(tones),
        column: name.optional().meta({ description: 'Whose cell it is about; the row without.' }),
      }),
      z.strictObject({ bar: name, ...ends }),
      z.strictObject({ scale: name, ...ends }),
    ]),
  )
  .max(mostPaintRules);
