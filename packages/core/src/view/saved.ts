import { z } from 'zod';
import { printName } from '../expression/index.ts';
import { problem } from '../problem/index.ts';
import { printSearch } from '../query/index.ts';
import { printView, readView, type ReadView, type ViewTexts } from './address.ts';
import { changed, type View } from './view.ts';

/** The version of the form in which views are saved; another one whenever it is not read as before. */
export const savedViewVersion = 1;

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

/** A view to be saved. Reading it gives the same view. */
export function saveView(view: View): SavedView {
  const { columns, search, limit, place, pinned, widths, open } = view;
  const texts: ViewTexts = Object.fromEntries(printView(view));
  const { filter, sort, nulls, group, aggregate, total, reading, density, layout } = texts;
  const saved = {
    columns: columns?.map((one) => one.name),
    filter,
    search,
    sort,
    nulls,
    group,
    aggregate,
    limit,
    total,
    page: place?.kind === 'page' ? place.page : undefined,
    offset: place?.kind === 'offset' ? place.offset : undefined,
    reading,
    pinned,
    widths,
    density,
    layout,
    open,
  };
  return savedViewSchema.parse({ version: savedViewVersion, ...there<unknown>(saved) });
}

/** Reads what was saved; every mistake with the member that it lies in. */
export function readSavedView(saved: unknown): ReadView {
  const read = savedViewSchema.safeParse(saved);
  if (!read.success) {
    const problems = read.error.issues.map(({ path, message }) => ({
      ...problem('malformed-view', { expected: `a saved view of version ${savedViewVersion}` }),
      hint: message,
      ...(path.length === 0 ? {} : { parameter: path.join('.') }),
    }));
    return { view: {}, problems };
  }
  const { columns, search, limit, page, offset, pinned, widths, open } = read.data;
  const { filter, sort, nulls, group, aggregate, total, reading, density, layout } = read.data;
  const texts = {
    columns: columns?.map(printName).join(','),
    filter,
    search: search && printSearch(search),
    sort,
    nulls,
    group,
    aggregate,
    limit: limit?.toString(),
    page: page?.toString(),
    offset: offset?.toString(),
    total,
    reading,
    density,
    layout,
  };
  const { view, problems } = readView(there(texts));
  return { view: changed(view, { pinned, widths, open }), problems };
}

function there<Member>(
  members: Readonly<Record<string, Member | undefined>>,
): Record<string, Member> {
  const found = Object.entries(members).filter(([, member]) => member !== undefined);
  return Object.fromEntries(found) as Record<string, Member>;
}
