import type {
  AnyTables,
  AskableRows,
  ChosenRows,
  Client,
  TableSet,
  WrittenQuery,
} from '@ephoros/client';

/** What is asked of a client, whatever its tables. What it has no function for is not offered. */
export interface AskedClient<Tables extends TableSet<Tables> = AnyTables>
  extends
    Pick<Client<Tables>, 'describe' | 'rows' | 'groups' | 'tableTypes'>,
    Partial<
      Pick<
        Client<Tables>,
        'mileposts' | 'values' | 'aggregates' | 'written' | 'selections' | 'changes' | 'views'
      >
    > {
  /** Whether a query is answered here; of clients that keep small results. */
  readonly kept?: (table: string, query: WrittenQuery) => Kept;
  /** Forgets what is kept of a table. */
  readonly forget?: (table: string) => void;
  /** Tells when that may be another one. */
  readonly subscribe?: (listener: () => void) => () => void;
}

/** Where a query is answered, and up to how many rows that is here. */
export interface Kept {
  readonly where: 'kept' | 'service';
  readonly maxRows: number;
}

/** What a client is asked beside rows and groups, of one table. */
export interface Asking {
  /** How often all was asked anew. */
  readonly refreshes: number;
  readonly rows: Asked<'rows'>;
  readonly groups: Asked<'groups'>;
  /** Rows of another table. */
  readonly others: Client['rows'];
  readonly values?: Asked<'values'> | undefined;
  readonly aggregates?: Asked<'aggregates'> | undefined;
  readonly mileposts?: Asked<'mileposts'> | undefined;
  readonly written?: Asked<'written'> | undefined;
  /** Chosen rows as one question can name them: those with many keys are kept by the service. */
  readonly askable: (rows: ChosenRows) => Promise<AskableRows>;
}

type Asked<Name extends 'rows' | 'groups' | 'values' | 'aggregates' | 'mileposts' | 'written'> =
  Client[Name] extends (table: string, ...rest: infer Rest) => infer Answer
    ? (...rest: Rest) => Answer
    : never;
