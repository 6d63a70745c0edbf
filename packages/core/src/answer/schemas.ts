import { z } from 'zod';
import { scanned } from './progress.ts';
import { aggregateNames, type ColumnFormat, type ColumnType } from '../schema/index.ts';
import { paintSchema } from './paint.ts';

/** A value as it stands in JSON: see the column's `encoding` in the description. */
export type Value =
  null | boolean | number | string | readonly Value[] | { readonly [name: string]: Value };

/** A row by column name. */
export type Row = Readonly<Record<string, Value>>;

/** What a schema describes, as a caller has it: nothing of an answer is changed. */
type Answered<Schema extends z.ZodType> = DeepReadonly<z.infer<Schema>>;

/** The same with nothing to be changed; values, which refer to themselves, are so already. */
type DeepReadonly<Part> = [Value] extends [Part]
  ? Part
  : Part extends object
    ? { readonly [Name in keyof Part]: DeepReadonly<Part[Name]> }
    : Part;

const value = z
  .unknown()
  .meta({ description: "In the column's encoding; null for null." }) as unknown as z.ZodType<Value>;

/** Texts that name a type or a format are read by `schema`; here they are reported as they are. */
const columnType = z.looseObject({ kind: z.string() }) as unknown as z.ZodType<ColumnType>;
const columnFormat = z.looseObject({ kind: z.string() }) as unknown as z.ZodType<ColumnFormat>;

const encoding = z.enum(['number', 'string', 'boolean', 'json', 'array']);
const totalKind = z.enum(['exact', 'estimate', 'none']);

const resultColumn = z
  .object({
    name: z.string(),
    label: z.string(),
    type: columnType,
    encoding,
    format: columnFormat.exactOptional(),
    valueLabels: z.record(z.string(), z.string()).exactOptional().meta({
      description: 'What values are called, by the text of each.',
    }),
  })
  .meta({ id: 'ResultColumn' });

const asOf = z.string().exactOptional().meta({
  description: 'When the answer was made (RFC 3339), where that was not for this very question.',
});

const links = z
  .object({
    first: z.string(),
    previous: z.string().exactOptional(),
    next: z.string().exactOptional(),
    last: z.string().exactOptional(),
  })
  .meta({
    id: 'Links',
    description:
      'The windows around this one, as far as they are known: each as the parameter that leads there.',
  });

const window = z
  .object({
    offset: z.int().nullable().meta({ description: 'Null next to a cursor.' }),
    limit: z.int(),
    rowCap: z.int().exactOptional().meta({ description: 'Present when it lowered the limit.' }),
    count: z.int(),
    cut: z.boolean().exactOptional().meta({
      description:
        'The window ends early, since an answer has no room for more bytes: `next` goes on.',
    }),
    total: z.int().nullable(),
    totalKind,
    counting: z.boolean().exactOptional().meta({
      description: 'The rows are being counted; nothing may be said of their number until then.',
    }),
    countedAt: z.string().exactOptional().meta({
      description: 'When the rows were counted (RFC 3339), where not for this very answer.',
    }),
    asOf,
    scanned: scanned.exactOptional(),
    kept: z.boolean().exactOptional().meta({
      description: 'The answer was made from rows that a client keeps, without asking anybody.',
    }),
    links: links.exactOptional(),
  })
  .meta({ id: 'Window' });

/** Which rows of the result an answer holds. */
export type Window = Answered<typeof window>;
export type WindowLinks = Answered<typeof links>;

const around = {
  next: z.string().nullable().meta({ description: 'A cursor; null where the result ends.' }),
  previous: z.string().nullable().meta({ description: 'A cursor; null at the beginning.' }),
};

const explanation = z.looseObject({ sql: z.string() }).exactOptional().meta({
  description: 'How the answer came about, where that was asked for and is allowed.',
});

/** A window of lines of some kind, and the ways on from it. */
export interface WindowAnswer<Line> {
  readonly rows: readonly Line[];
  readonly window: Window;
  /** A cursor just after the last row; null where the result ends. */
  readonly next: string | null;
  /** A cursor just before the first row; null where the result begins. */
  readonly previous: string | null;
}

export const rowsAnswer = z
  .object({
    table: z.string(),
    columns: z.array(z.string()),
    rows: z.array(z.union([z.record(z.string(), value), z.array(value)])),
    cuts: z
      .array(z.tuple([z.int(), z.int()]))
      .exactOptional()
      .meta({
        description:
          'Which values were cut, by row and column, where that was asked for: they are texts then.',
      }),
    window,
    ...around,
    explanation,
  })
  .meta({ id: 'Rows' });

/** Rows of a table, as objects by column name unless stated otherwise. */
export type RowsAnswer<Line = Row> = Omit<
  Answered<typeof rowsAnswer>,
  'rows' | 'explanation' | 'window'
> &
  WindowAnswer<Line>;

export const rowAnswer = z
  .object({ table: z.string(), row: z.record(z.string(), value) })
  .meta({ id: 'Row' });

/** One row. */
export type RowAnswer = Answered<typeof rowAnswer>;

const aggregateValues = z
  .record(z.string(), value)
  .meta({ description: 'By the names of the aggregates.' });

const lineFilter = z.string().nullable().meta({
  description:
    "CQL2 Text that selects the line's rows among those that meet the answer's own filter; null where the value has no spelling (NaN).",
});

const groupLine = z
  .object({
    value,
    count: z.int().meta({ description: 'Rows.' }),
    below: z.int().nullable().meta({
      description: 'Lines of the next level; null at the last level.',
    }),
    aggregates: aggregateValues,
    filter: lineFilter,
  })
  .meta({ id: 'GroupLine' });

/** The line that stands for the rows of a group. */
export type GroupLine = Answered<typeof groupLine>;

export const groupsAnswer = z
  .object({
    table: z.string(),
    depth: z.int().meta({ description: 'Which level, from 0.' }),
    levels: z.array(resultColumn),
    aggregates: z.array(resultColumn),
    path: z.array(value).meta({
      description: 'The values of the groups that the level lies in.',
    }),
    groups: z.array(groupLine),
    filter: z.string().nullable().meta({
      description:
        'CQL2 Text that all rows of the level meet; null where nothing is asked of them.',
    }),
    window,
    ...around,
    explanation,
  })
  .meta({ id: 'Groups' });

/** Lines of one level of a grouping. */
export type GroupsAnswer = Omit<Answered<typeof groupsAnswer>, 'explanation'>;

export const aggregatesAnswer = z
  .object({
    table: z.string(),
    aggregates: z.array(resultColumn),
    values: aggregateValues,
    asOf,
    explanation,
  })
  .meta({ id: 'Aggregates' });

/** Aggregates of a whole result. */
export type AggregatesAnswer = Omit<Answered<typeof aggregatesAnswer>, 'explanation'>;

export const valuesAnswer = z
  .object({
    table: z.string(),
    column: resultColumn,
    values: z.array(
      z.object({
        value,
        count: z
          .int()
          .nullable()
          .meta({ description: 'Rows that have it; null where they were not to be counted.' }),
        filter: lineFilter,
      }),
    ),
    range: z.object({ least: value, greatest: value }).nullable().exactOptional().meta({
      description: 'Of numbers, dates and timestamps; null where there is no value.',
    }),
    histogram: z
      .array(z.object({ from: value, to: value, count: z.int() }))
      .exactOptional()
      .meta({
        description: 'Bins of equal width over the range, each without its end but the last.',
      }),
    window,
    ...around,
  })
  .meta({ id: 'Values' });

/** The values that a column has under a query. */
export type ValuesAnswer = Answered<typeof valuesAnswer>;

export const milepostsAnswer = z
  .object({
    table: z.string(),
    column: z.string().meta({
      description: 'The leading column of the sort, whose values the ticks hold.',
    }),
    descending: z.boolean(),
    indexed: z.boolean().meta({ description: 'Whether an index leads with it.' }),
    state: z.enum(['ready', 'building', 'waiting', 'failed']).meta({
      description: 'Ticks come while the mileposts are being set, and change no more once ready.',
    }),
    passed: z.int().meta({ description: 'Rows passed so far while the mileposts are set.' }),
    total: z.int().nullable(),
    totalKind,
    ticks: z.array(z.object({ offset: z.int(), value })),
  })
  .meta({ id: 'Mileposts' });

/** Sort values at even positions of a result, as far as they are known. */
export type MilepostsAnswer = Answered<typeof milepostsAnswer>;

export const tablesAnswer = z
  .object({
    title: z.string(),
    tables: z.array(
      z.object({
        name: z.string(),
        title: z.string(),
        kind: z.enum(['table', 'view']),
        comment: z.string().exactOptional(),
        estimatedRows: z.int().nullable(),
        links: z.object({ description: z.string(), rows: z.string() }),
      }),
    ),
  })
  .meta({ id: 'Tables' });

/** The published tables. */
export type TableList = Answered<typeof tablesAnswer>;

const column = z
  .looseObject({
    ...resultColumn.shape,
    nullable: z.boolean(),
    sortable: z.boolean(),
    filterable: z.boolean(),
    groupable: z.boolean(),
    aggregates: z.array(z.enum(aggregateNames)),
    indexed: z.boolean(),
    shown: z.boolean(),
    longLabel: z.string().exactOptional().meta({
      description: 'What it is called where another one has the same label.',
    }),
    shownAs: z.string().exactOptional().meta({
      description: 'Of a reference: the related column that names the row it leads to.',
    }),
    writing: z
      .looseObject({
        add: z.literal(true).exactOptional(),
        change: z.literal(true).exactOptional(),
        required: z.literal(true).exactOptional().meta({
          description: 'New rows must have a value of it.',
        }),
        pattern: z
          .object({ text: z.string(), message: z.string().exactOptional() })
          .exactOptional(),
      })
      .exactOptional()
      .meta({ description: 'How you may write it; absent where you may not.' }),
    textOrder: z.string().exactOptional().meta({
      description: 'How texts are ordered: "C", or the language tag of an ICU collation.',
    }),
  })
  .meta({ id: 'Column' });

/** A table's description; its type is `TableDescription`. */
export const descriptionAnswer = z
  .looseObject({
    name: z.string(),
    title: z.string(),
    kind: z.enum(['table', 'view']),
    key: z.array(z.string()).meta({ description: 'Empty when the table has no key.' }),
    columns: z.array(column),
    related: z.array(column).exactOptional().meta({
      description: 'The related columns that references are shown as.',
    }),
    relationships: z.array(
      z.object({
        name: z.string(),
        kind: z.enum(['one', 'many']),
        table: z.string(),
        columns: z.array(z.string()),
        references: z.array(z.string()),
      }),
    ),
    sections: z
      .array(z.object({ title: z.string(), columns: z.array(z.string()) }))
      .exactOptional()
      .meta({ description: 'Columns that are read together, in the order of a single row.' }),
    search: z.array(z.string()),
    changes: z
      .looseObject({
        add: z.boolean(),
        change: z.boolean(),
        remove: z.boolean(),
        rules: z.array(z.object({ rule: z.string(), message: z.string() })).exactOptional(),
      })
      .exactOptional()
      .meta({ description: 'What you may change; absent where that is nothing.' }),
    narrow: z
      .array(z.string())
      .exactOptional()
      .meta({ description: 'Columns that stand first on a narrow screen.' }),
    begin: z.string().exactOptional().meta({ description: 'A condition that views begin with.' }),
    fixed: z
      .string()
      .exactOptional()
      .meta({ description: 'A condition that views join to whatever is asked.' }),
    paint: paintSchema.exactOptional().meta({ description: 'How cells and rows look.' }),
    defaultSort: z.array(z.object({ column: z.string(), descending: z.boolean() })),
    pageSizes: z.array(z.int()),
    rowCap: z.int(),
    estimatedRows: z.int().nullable(),
    remarks: z.array(z.string()),
  })
  .meta({ id: 'Table' });

export const selectionAnswer = z
  .object({
    id: z.string(),
    table: z.string(),
    kind: z.enum(['keys', 'matching']),
    count: z.int().nullable().meta({ description: 'Rows that it means now.' }),
    countKind: z.enum(['exact', 'estimate', 'none']),
    keys: z.int().meta({ description: 'Its keys; of all that match the exceptions.' }),
    missing: z
      .int()
      .exactOptional()
      .meta({ description: 'Keys that have no row for the caller, or none any more.' }),
  })
  .meta({ id: 'Selection' });

/** A selection that the service keeps, as its caller gets it. */
export type SelectionAnswer = Answered<typeof selectionAnswer>;
