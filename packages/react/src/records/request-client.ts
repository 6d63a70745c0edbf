import type {
  AnyTables,
  QueryableRows,
  ChosenRows,
  Client,
  TableSet,
  WrittenQuery,
} from '@ephoros/client';

/** What is requested of a client for any of its tables. What it has no function for is not offered. */
export interface RequestClient<Tables extends TableSet<Tables> = AnyTables>
  extends
    Pick<Client<Tables>, 'describe' | 'rows' | 'groups' | 'tableTypes'>,
    Partial<
      Pick<
        Client<Tables>,
        'mileposts' | 'values' | 'aggregates' | 'written' | 'selections' | 'changes' | 'views'
      >
    > {
  /** Whether a query is answered here; of clients that keep small results. */
  readonly cached?: (table: string, query: WrittenQuery) => CachedResults;
  /** Forgets what is stored of a table. */
  readonly forget?: (table: string) => void;
  /** Shows when that may be another one. */
  readonly subscribe?: (listener: () => void) => () => void;
}

/** Where a query is answered, and up to how many rows that is here. */
export interface CachedResults {
  readonly where: 'memory' | 'service';
  readonly maxRows: number;
}

/** What is requested of a client for one table, next to rows and groups. */
export interface QueryOptions {
  /** How often everything was requested again. */
  readonly refreshes: number;
  readonly rows: Requested<'rows'>;
  readonly groups: Requested<'groups'>;
  /** Rows of another table. */
  readonly others: Client['rows'];
  readonly values?: Requested<'values'> | undefined;
  readonly aggregates?: Requested<'aggregates'> | undefined;
  readonly mileposts?: Requested<'mileposts'> | undefined;
  readonly written?: Requested<'written'> | undefined;
  /** Chosen rows as one question can name them: those with many keys are stored by the service. */
  readonly queryable: (rows: ChosenRows) => Promise<QueryableRows>;
}

type Requested<Name extends 'rows' | 'groups' | 'values' | 'aggregates' | 'mileposts' | 'written'> =
  Client[Name] extends (table: string, ...rest: infer Rest) => infer Answer
    ? (...rest: Rest) => Answer
    : never;
