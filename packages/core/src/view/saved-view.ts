import { z } from 'zod';
import type { Problem } from '../problem/index.ts';
import { savedViewSchema } from './saved-schema.ts';

/** Characters of the name and of the note of a saved view. */
const mostName = 200;
const mostNote = 2_000;

const name = z.string().trim().min(1).max(mostName).meta({
  description: 'What people call it; one name for each of your views of a table.',
});
const note = z.string().max(mostNote).meta({ description: 'What it is for; empty for none.' });
const shared = z.boolean().meta({
  description: 'Whether all who see the table see it; else it is for you alone.',
});
const first = z.boolean().meta({
  description: 'Whether its table opens with it: for you, or where it is shared, for all.',
});

/** A view that is to be stored. */
export const newViewBody = z
  .strictObject({
    table: z.string().meta({ description: 'The published name.' }),
    name,
    note: note.exactOptional(),
    view: savedViewSchema,
    shared: shared.exactOptional(),
    first: first.exactOptional(),
  })
  .meta({ id: 'NewView' });

/** What shall be otherwise of a saved view. */
export const viewChangeBody = z
  .strictObject({
    name: name.exactOptional(),
    note: note.exactOptional(),
    view: savedViewSchema.exactOptional(),
    shared: shared.exactOptional(),
    first: first.exactOptional(),
  })
  .meta({ id: 'ViewChange' });

/** A saved view, as its caller gets it. */
export const viewAnswer = z
  .object({
    id: z.string(),
    table: z.string(),
    name,
    note,
    view: savedViewSchema.meta({ description: 'What of it the table still has.' }),
    left: z
      .array(
        z.looseObject({
          code: z.string(),
          message: z.string(),
          parameter: z.string().exactOptional(),
          hint: z.string().exactOptional(),
        }),
      )
      .meta({
        description: 'Why parts of it are left out: the table has changed, or you see less of it.',
      }),
    shared,
    first,
    own: z.boolean().meta({ description: 'Whether it is yours to change.' }),
    by: z.string().nullable().meta({ description: 'Who saved it, where callers are known.' }),
    version: z.int().meta({ description: 'Counts its changes; what If-Match names.' }),
    changedAt: z.string().meta({ description: 'When it was last changed (RFC 3339).' }),
  })
  .meta({ id: 'View' });

/** Saved views by name. */
export const viewsAnswer = z.object({
  views: z.array(viewAnswer),
  next: z.string().nullable().meta({ description: 'What `after` has to say for the next ones.' }),
});

export type WantedView = z.output<typeof newViewBody>;
export type WantedViewChange = z.output<typeof viewChangeBody>;

export interface ViewAnswer extends Omit<z.output<typeof viewAnswer>, 'left'> {
  readonly left: readonly Problem[];
}

export interface ViewsAnswer {
  readonly views: readonly ViewAnswer[];
  readonly next: string | null;
}
