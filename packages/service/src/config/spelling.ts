import { operators } from '@ephoros/core/query';
import { spellingErrors } from '@ephoros/core/spelling';
import { z } from 'zod';

const name = z.string().min(1).max(100);

const number = z.strictObject({
  name,
  from: z.int().min(0).max(1).meta({ description: 'What the first one is called: 0 or 1.' }),
});

const sort = z.strictObject({
  name,
  direction: name.optional().meta({ description: 'A second parameter, which says the direction.' }),
  between: z.string().min(1).max(5).optional().meta({
    description: 'What stands between a column and its direction in one parameter: "toll:desc".',
  }),
  ascending: z.array(name).min(1).optional().meta({ description: 'Words for upwards; asc.' }),
  descending: z.array(name).min(1).optional().meta({ description: 'Words for downwards; desc.' }),
});

const filter = z.strictObject({
  name,
  form: z.enum(['brackets', 'list', 'json']).meta({
    description:
      '`where[toll][gte]=100`; `where[0][field]=toll` with its operator and value; or the same as JSON, nested.',
  }),
  column: name.optional().meta({ description: 'What a condition calls its column.' }),
  operator: name.optional().meta({ description: 'What it calls its operator.' }),
  value: name.optional().meta({ description: 'What it calls its value, or list of values.' }),
  joining: name.optional().meta({ description: 'What joined conditions call the word between.' }),
  members: name.optional().meta({ description: 'What they call the list of themselves.' }),
  and: name.optional().meta({ description: 'The word for all of them; and.' }),
  or: name.optional().meta({ description: 'The word for any of them; or.' }),
});

const place = z.string().max(200);

const answer = z
  .strictObject({
    rows: place.meta({ description: 'The list of rows; "" where it is the whole answer.' }),
    total: place.optional(),
    page: place.optional(),
    pages: place.optional(),
    limit: place.optional(),
    offset: place.optional(),
    count: place.optional().meta({ description: 'Rows of this answer.' }),
    next: place.optional().meta({ description: 'A cursor, where the page asks by one.' }),
    previous: place.optional(),
    totalHeader: name.optional().meta({ description: 'A header that has the total.' }),
    pagesHeader: name.optional(),
  })
  .meta({ description: 'Where the parts of an answer stand, as paths by dots: "data.items".' });

/** Paths that are the service's own. */
const taken =
  /^\/(?:api|odata|health|ready|metrics|assets|tables|views|report|sign-in|sign-out)?(?:\/|$)/;

export const spelling = z
  .strictObject({
    at: z
      .string()
      .regex(/^\/[\w./{}-]*$/)
      .refine((path) => !taken.test(path), { error: 'this path is the service’s own' })
      .meta({ description: 'Where it is served: "/wharf/{table}", or a path of one table.' }),
    table: name.optional().meta({ description: 'The table, where the path names none.' }),
    parameters: z.strictObject({
      columns: name.optional(),
      search: name.optional(),
      limit: name.optional(),
      page: number.optional(),
      offset: number.optional(),
      after: name.optional(),
      before: name.optional(),
      sort: sort.optional(),
      filter: filter.optional(),
    }),
    operators: z.record(name, z.enum(operators)).optional().meta({
      description: 'What the page calls the operators: { gte: atLeast }.',
    }),
    ignored: z.array(name).optional().meta({
      description: 'Parameters that mean nothing here, such as one against caches.',
    }),
    answer,
  })
  .superRefine((given, context) => {
    const open = given.at.split('/').filter((part) => part.includes('{'));
    const namesTable = open.length === 1 && open[0] === '{table}';
    if (open.length > 0 && !namesTable) {
      context.addIssue({
        code: 'custom',
        path: ['at'],
        message: '{table} alone can be open, once',
      });
    }
    if (namesTable === (given.table !== undefined)) {
      const message = namesTable
        ? 'the path names the table already'
        : 'the path has no {table}: say which table it is of';
      context.addIssue({ code: 'custom', path: [namesTable ? 'table' : 'at'], message });
    }
    for (const { path, message } of spellingErrors(given)) {
      context.addIssue({ code: 'custom', path: [...path], message });
    }
  })
  .meta({ description: 'How a page that is there already asks for rows, and reads them.' });

/** A path of a spelling, and what is requested and answered there. */
export type SpellingConfiguration = z.infer<typeof spelling>;
