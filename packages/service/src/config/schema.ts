import { paintSchema } from '@ephoros/core/answer';
import { aggregateNames } from '@ephoros/core/schema';
import { nearest } from '@ephoros/core/problem';
import { z } from 'zod';
import { roles } from './roles.ts';
import { network, signIn } from './sign-in.ts';
import { spelling } from './spelling.ts';

const columnName = z.string().min(1).meta({ description: "The column's name in the database." });

const decimals = z.int().min(0).max(10).meta({ description: 'Digits after the point.' });

const format = z
  .discriminatedUnion('kind', [
    z.strictObject({
      kind: z.literal('number'),
      decimals: decimals.optional(),
      unit: z.string().optional().meta({ description: 'Shown behind the number, such as "min".' }),
    }),
    z.strictObject({
      kind: z.literal('money'),
      currency: z.string().min(1).meta({ description: 'A code or sign, such as "EUR" or "₤".' }),
      decimals: decimals.optional(),
    }),
    z.strictObject({ kind: z.literal('percent'), decimals: decimals.optional() }),
    z.strictObject({ kind: z.literal('identifier') }).meta({
      description: 'A number that names something, such as a year: no digits are set apart.',
    }),
    z.strictObject({ kind: z.literal('date') }),
    z.strictObject({ kind: z.literal('datetime') }),
    z.strictObject({
      kind: z.literal('duration'),
      unit: z
        .enum(['seconds', 'minutes', 'hours', 'days'])
        .meta({ description: 'What the number counts: 111 minutes are shown as 1h 51m.' }),
    }),
    z.strictObject({ kind: z.literal('link') }),
    z.strictObject({ kind: z.literal('picture') }),
    z.strictObject({ kind: z.literal('badge') }),
  ])
  .meta({ description: 'How views show the values. Answers keep them as they are.' });

const column = z.strictObject({
  label: z.string().min(1).optional().meta({ description: 'What people read in the header.' }),
  format: format.optional(),
  valueLabels: z.record(z.string(), z.string()).optional().meta({
    description:
      'What views call its values, by the text of each. Answers and filters keep them as they are.',
  }),
  hidden: z.boolean().optional().meta({
    description: 'A hidden column is not published at all: not shown, filtered or sorted.',
  }),
  shown: z.boolean().optional().meta({
    description: 'Whether a row holds it when a request names no columns; true by default.',
  }),
  groupable: z.boolean().optional().meta({
    description: 'Whether rows can be grouped by it; by default where its values can be compared.',
  }),
  aggregates: z.array(z.enum(aggregateNames)).optional().meta({
    description:
      'What can be made of it; by default all that its type allows, but no sums of keys.',
  }),
  pattern: z.string().min(1).optional().meta({
    description:
      'A regular expression (ECMAScript) that texts must match as a whole to be saved: "[A-Z]{3}".',
  }),
  patternMessage: z.string().min(1).optional().meta({
    description: 'What is said of a text that does not: "Three capital letters."',
  }),
});

const changes = z
  .strictObject({
    add: z.boolean().optional().meta({ description: 'Whether rows may be added.' }),
    change: z
      .union([z.boolean(), z.array(columnName)])
      .optional()
      .meta({ description: 'Whether values may be changed; or those of which columns.' }),
    remove: z.boolean().optional().meta({ description: 'Whether rows may be removed.' }),
  })
  .meta({
    description:
      'What may be changed: { add: true, change: [status, note] }. Nothing by default, and never more than the role of `--changes` may.',
  });

const table = z.strictObject({
  name: z
    .string()
    .regex(/^[\p{L}_][\p{L}\p{N}_.-]*$/u)
    .optional()
    .meta({ description: "The published name; by default the database's." }),
  title: z.string().min(1).optional(),
  hidden: z.boolean().optional().meta({ description: 'A hidden table is not published.' }),
  key: z.array(columnName).min(1).optional().meta({
    description: 'The columns that identify a row, where the database does not say (a view).',
  }),
  label: columnName.optional().meta({
    description:
      'The column that names a row to people; by default the first text column that is never null.',
  }),
  sort: z.string().min(1).optional().meta({
    description: 'Used when a request names no sort; "-" for descending: "-passed_at,id".',
  }),
  narrow: z.array(z.string().min(1)).min(1).optional().meta({
    description:
      'Columns that stand first where a row is a card of a few fields, as on a phone; by their types by default.',
  }),
  begin: z.string().min(1).optional().meta({
    description:
      'A condition that views begin with, until a reader removes it: "status <> \'waived\'".',
  }),
  fixed: z.string().min(1).optional().meta({
    description:
      'A condition that views join to all that a reader asks for, and that cannot be removed. It is no protection: what rows somebody may read is said by access.',
  }),
  paint: paintSchema.optional().meta({
    description:
      'How cells and rows look: { when: "toll > 100", tone: warn, column: toll }, { bar: wait_minutes }.',
  }),
  pageSizes: z
    .array(z.int().min(1).max(10_000))
    .min(1)
    .optional()
    .meta({ description: 'Page sizes offered; the first one is the default.' }),
  rowCap: z
    .int()
    .min(1)
    .max(100_000)
    .optional()
    .meta({ description: 'No answer holds more rows than this; 1,000 by default.' }),
  order: z.array(columnName).optional().meta({
    description: 'Columns to show first, in this order; the others follow as in the database.',
  }),
  columns: z.record(columnName, column).optional(),
  sections: z.record(z.string().min(1), z.array(columnName).min(1)).optional().meta({
    description:
      'Columns of a single row that are read together: { Money: [toll] }. The others follow by kind.',
  }),
  search: z.array(z.string().min(1)).optional().meta({
    description: 'Where a search looks; by default all text columns. Related ones may be named.',
  }),
  fullText: z
    .string()
    .regex(/^[a-z_]+$/)
    .optional()
    .meta({
      description:
        'A full-text configuration, such as "english": searches go by words, not letters.',
    }),
  changes: changes.optional(),
  rules: z
    .array(
      z.strictObject({
        rule: z.string().min(1).meta({ description: 'In the filter language: "toll >= 0".' }),
        message: z.string().min(1).meta({ description: 'What is said of a row that breaks it.' }),
      }),
    )
    .optional()
    .meta({
      description:
        'What a saved row must not break, in addition to what the database itself checks.',
    }),
  messages: z.record(z.string().min(1), z.string().min(1)).optional().meta({
    description:
      'What is said where a constraint of the database is broken, by its name: { boats_name_key: "Two boats of one name." }',
  }),
  relationships: z
    .record(z.string().min(1), z.string().regex(/^[\p{L}_][\p{L}\p{N}_]*$/u))
    .optional()
    .meta({
      description:
        'Names of foreign keys, by their columns: { lock_id: lock }. By default the column without "_id".',
    }),
});

/** As browsers say where a page comes from (RFC 6454): no path, no slash behind. */
const origin = z.string().refine((text) => URL.canParse(text) && new URL(text).origin === text, {
  error:
    'Here an origin is expected, such as "https://desk.example.com": without a path or a slash behind.',
});

/** The configuration file, `ephoros.yaml`. Everything in it is optional. */
export const configurationSchema = z
  .strictObject({
    title: z
      .string()
      .min(1)
      .optional()
      .meta({ description: 'The name of the whole, on the console.' }),
    publish: z.enum(['all', 'listed']).optional().meta({
      description:
        '"all" (default): every table that the role may read; "listed": those below only.',
    }),
    origins: z
      .array(z.union([z.literal('*'), origin]))
      .optional()
      .meta({
        description:
          'Pages of which origins may read the API from a browser: "https://desk.example.com", or "*" for all of them; none by default. They send no cookies, and change nothing.',
      }),
    writingOrigins: z.array(origin).optional().meta({
      description:
        'Pages of which origins may also change something: "https://desk.example.com"; none by default. Callers must sign in, and send a token.',
    }),
    address: origin.optional().meta({
      description:
        'Where browsers reach the service, such as "https://desk.example.com"; needed for signing in by OpenID Connect behind something that speaks TLS.',
    }),
    proxies: z.array(network).optional().meta({
      description:
        'Addresses or networks of proxies that are believed where a request comes from (X-Forwarded-For): [10.0.0.7, 10.1.0.0/16]; none by default.',
    }),
    signIn: signIn.optional(),
    roles: roles.optional(),
    limits: z
      .strictObject({
        characters: z
          .int()
          .min(100)
          .max(65_536)
          .optional()
          .meta({ description: 'Of one parameter in a URL; 16,384.' }),
        depth: z
          .int()
          .min(1)
          .max(1000)
          .optional()
          .meta({ description: 'Levels of a filter; 100.' }),
        members: z.int().min(1).max(100_000).optional().meta({ description: 'Of a list; 10,000.' }),
        parts: z.int().min(10).max(50_000).optional().meta({
          description: 'Columns, values, functions and conditions of a filter; 5,000.',
        }),
      })
      .optional()
      .meta({ description: 'What parameters may be at most.' }),
    history: z
      .strictObject({
        keep: z.enum(['values', 'names', 'nothing']).optional().meta({
          description:
            '"values" (default): who changed what, with the values before and after; "names": without values, so that nothing can be undone; "nothing".',
        }),
        days: z.int().min(1).max(36_500).optional().meta({
          description: 'How long what was changed is remembered; 400.',
        }),
      })
      .optional()
      .meta({ description: 'What is remembered of changes, in the records.' }),
    exports: z
      .strictObject({
        rows: z.int().min(1).optional().meta({
          description: 'Rows of one file at most; as many as there are.',
        }),
        atOnce: z.int().min(1).max(100).optional().meta({
          description: 'Files written at the same time, in each process; 2.',
        }),
        seconds: z.int().min(1).max(86_400).optional().meta({
          description: 'How long one may take; 3,600.',
        }),
      })
      .optional()
      .meta({ description: 'What may be taken out as files.' }),
    rates: z
      .strictObject({
        seconds: z.int().min(1).max(86_400).optional().meta({
          description: 'The time within which it is counted; 60.',
        }),
        requests: z.int().min(1).optional().meta({ description: 'Requests of one caller.' }),
        rows: z.int().min(1).optional().meta({ description: 'Rows that a caller is given.' }),
        streams: z.int().min(1).max(5_000).optional().meta({
          description:
            'Event streams of one caller in one process; 50, or 200 of one address where callers are not known.',
        }),
        databaseSeconds: z.number().min(0.1).optional().meta({
          description: 'Seconds that the database computes for a caller.',
        }),
      })
      .optional()
      .meta({
        description:
          'What one caller may ask of this service within a time, or one address where callers are not known; any number by default.',
      }),
    audit: z
      .strictObject({
        questions: z.enum(['values', 'names', 'nothing']).optional().meta({
          description:
            '"names": a line of the log for each question, with who asked what, and "…" for every value in it; "values": with these; "nothing". "names" where callers sign in, else "nothing".',
        }),
      })
      .optional()
      .meta({ description: 'What the log tells of questions. Changes are in the history.' }),
    odata: z.boolean().optional().meta({
      description:
        'Whether the tables are served by OData 4.01 as well, read-only, under `/odata`; false by default.',
    }),
    spelling: z.array(spelling).optional().meta({
      description: 'Paths where pages that are there already ask in words of their own.',
    }),
    tables: z
      .record(z.string().min(1), table)
      .optional()
      .meta({ description: 'By name in the database: "passages", or "harbour.fees" in a schema.' }),
  })
  .superRefine(({ roles: given, signIn: ways }, context) => {
    const names = Object.keys(given ?? {});
    if (given !== undefined && ways === undefined) {
      context.addIssue({
        code: 'custom',
        path: ['roles'],
        message: 'nobody could have a role: say how callers sign in (signIn)',
      });
    }
    for (const [index, { give = [] }] of (ways ?? []).entries()) {
      for (const [place, name] of give.entries()) {
        if (names.includes(name)) continue;
        const near = nearest(name, names);
        context.addIssue({
          code: 'custom',
          path: ['signIn', index, 'give', place],
          message: `there is no role ${name}${near === undefined ? '' : `; perhaps ${near}`}`,
        });
      }
    }
  })
  .superRefine(({ spelling: given = [] }, context) => {
    for (const [index, { at }] of given.entries()) {
      if (given.findIndex((one) => one.at === at) === index) continue;
      context.addIssue({
        code: 'custom',
        path: ['spelling', index, 'at'],
        message: 'this path is taken',
      });
    }
  })
  .meta({ title: 'Ephoros configuration' });

export type Configuration = z.infer<typeof configurationSchema>;
export type TableConfiguration = z.infer<typeof table>;

/** The JSON Schema of `ephoros.yaml`, for editors. */
export function configurationJsonSchema(): object {
  return z.toJSONSchema(configurationSchema, { target: 'draft-2020-12', io: 'input' });
}
