import { z } from 'zod';
import { paintSchema } from '../answer/index.ts';
import { chartSides } from './chart.ts';
import { densities, heights, layouts, readings, rowStyles, savedViewVersion } from './view.ts';

const name = z.string().min(1).meta({ description: 'A column, also a related one: lock.name.' });

/**
 * A view as it is saved: texts where they are parameters of the API, JSON for the rest. What is
 * absent is at its default.
 */
export const savedViewSchema = z.strictObject({
  version: z.literal(savedViewVersion),
  columns: z.array(name).min(1).optional(),
  filter: z.string().min(1).optional(),
  search: z.array(z.string().min(1)).min(1).optional(),
  sort: z.string().min(1).optional(),
  nulls: z.enum(['first', 'last']).optional(),
  group: z.string().optional(),
  aggregate: z.string().optional(),
  limit: z.int().min(1).optional(),
  total: z.enum(['exact', 'estimate', 'none']).optional(),
  page: z.int().min(1).optional(),
  offset: z.int().min(0).optional(),
  reading: z.enum(readings).optional(),
  pinned: z.array(name).optional(),
  pinnedEnd: z.array(name).optional(),
  widths: z.record(name, z.int().min(1)).optional(),
  density: z.enum(densities).optional(),
  layout: z.enum(layouts).optional(),
  rowStyle: z.array(z.enum(rowStyles)).optional(),
  height: z.enum(heights).optional(),
  paint: paintSchema.optional(),
  chart: z
    .string()
    .min(1)
    .optional()
    .meta({ description: 'How, by what, of what: bars,month(passed_at),sum(toll).' }),
  chartSide: z.enum(chartSides).optional(),
  open: z.array(z.array(z.json())).optional(),
});

/** See `savedViewSchema`. */
export type SavedView = z.output<typeof savedViewSchema>;
