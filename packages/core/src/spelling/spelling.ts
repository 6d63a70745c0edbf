import type { Operator } from '../query/index.ts';

/** A number of another page's, and from what it counts. */
export interface NumberSpelling {
  readonly name: string;
  /** What the first page, or the first row, is called. */
  readonly from: number;
}

/** How an order is written. */
export interface SortSpelling {
  /** The parameter that names columns, by commas. */
  readonly name: string;
  /** A second one that says the direction of all of them, or of each, by commas. */
  readonly direction?: string | undefined;
  /** What stands between a column and its direction, where one parameter holds both: `toll:desc`. */
  readonly between?: string | undefined;
  /** Words for the directions; `asc` and `desc` by default. A minus in front is understood without any. */
  readonly ascending?: readonly string[] | undefined;
  readonly descending?: readonly string[] | undefined;
}

/** How a condition is written. */
export interface FilterSpelling {
  readonly name: string;
  /**
   * `brackets`: `where[toll][gte]=100`, `where[status]=disputed`. `list`: `where[0][field]=toll` next to
   * `where[0][op]=gte` and `where[0][value]=100`. `json`: the same members as JSON, conditions within conditions.
   */
  readonly form: 'brackets' | 'list' | 'json';
  /** The members of a condition. */
  readonly column?: string | undefined;
  readonly operator?: string | undefined;
  readonly value?: string | undefined;
  /** Of conditions that are joined: what joins them, and they themselves. */
  readonly joining?: string | undefined;
  readonly members?: string | undefined;
  readonly and?: string | undefined;
  readonly or?: string | undefined;
}

/** Where the parts of an answer stand, as dotted paths; rows at "" are the answer itself. */
export interface AnswerSpelling {
  readonly rows: string;
  readonly total?: string | undefined;
  readonly page?: string | undefined;
  readonly pages?: string | undefined;
  readonly limit?: string | undefined;
  readonly offset?: string | undefined;
  readonly count?: string | undefined;
  readonly next?: string | undefined;
  readonly previous?: string | undefined;
  /** Headers, where the total or the number of pages stands in one. */
  readonly totalHeader?: string | undefined;
  readonly pagesHeader?: string | undefined;
}

/** How a page that was written for something else asks for rows, and how it reads the answer. */
export interface Spelling {
  readonly parameters: {
    readonly columns?: string | undefined;
    readonly search?: string | undefined;
    readonly limit?: string | undefined;
    readonly page?: NumberSpelling | undefined;
    readonly offset?: NumberSpelling | undefined;
    readonly after?: string | undefined;
    readonly before?: string | undefined;
    readonly sort?: SortSpelling | undefined;
    readonly filter?: FilterSpelling | undefined;
  };
  /** What the page calls the operators; those that are not here go by our own names. */
  readonly operators?: Readonly<Record<string, Operator>> | undefined;
  /** Parameters that mean nothing here, such as one against caches. */
  readonly ignored?: readonly string[] | undefined;
  readonly answer: AnswerSpelling;
}
