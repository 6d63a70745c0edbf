import { z } from 'zod';
import { savedViewVersion } from './view.ts';

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
  reading: z.enum(['pages', 'scroll']).optional(),
  pinned: z.array(name).optional(),
  widths: z.record(name, z.int().min(1)).optional(),
  density: z.enum(['compact', 'normal', 'roomy']).optional(),
  layout: z.enum(['down', 'across']).optional(),
  open: z.array(z.array(z.json())).optional(),
});

/** See `savedViewSchema`. */
export type SavedView = z.output<typeof savedViewSchema>;
