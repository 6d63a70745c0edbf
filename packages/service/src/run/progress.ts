/** How far something is that takes long. */
export interface Progress {
  /** Of the whole, 0 to 1, as far as it can be told. */
  readonly share: number;
  /** Ms since it was begun. */
  readonly elapsed: number;
  /** Rows passed so far, and of how many, where rows are passed. */
  readonly rows?: number | undefined;
  readonly of?: number | undefined;
}
