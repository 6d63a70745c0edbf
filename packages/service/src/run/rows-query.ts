import type { EventEmitter } from 'node:events';
import pg from 'pg';

/** PostgreSQL's text of each value of a row; null for null. */
export type Row = readonly (string | null)[];

/** What pg's queries do with the messages of the server, as far as it is changed here. */
type Query = EventEmitter & {
  handleRowDescription(message: RowDescription): void;
};

interface RowDescription {
  readonly fields: readonly { readonly dataTypeID: number }[];
}

const Base = pg.Query as unknown as new (config: pg.QueryConfig) => Query;

/**
 * A query that hands on each row as it comes from the server, in the texts that it has there: nothing
 * is parsed, and no event is emitted per row.
 */
export class RowsQuery extends Base {
  /** PostgreSQL's type ids of the columns; of a domain that of its base type. */
  types: readonly number[] = [];
  private readonly take: (row: Row) => void;

  constructor(config: pg.QueryConfig, take: (row: Row) => void) {
    super(config);
    this.take = take;
  }

  override handleRowDescription(message: RowDescription): void {
    super.handleRowDescription(message);
    this.types = message.fields.map(({ dataTypeID }) => dataTypeID);
  }

  handleDataRow({ fields }: { readonly fields: Row }): void {
    this.take(fields);
  }
}
