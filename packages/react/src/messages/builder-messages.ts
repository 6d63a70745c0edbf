import type { Joining, Operator } from '@ephoros/core/query';

/** What the builder of conditions says, in one language. */
export interface BuilderMessages {
  readonly joinings: Readonly<Record<Joining, string>>;
  readonly joining: string;
  readonly operators: Readonly<Record<Operator, string>>;
  /** Of dates and times of day. */
  readonly timeOperators: Readonly<Partial<Record<Operator, string>>>;
  readonly operator: string;
  readonly addTerm: string;
  readonly addBranch: string;
  readonly addHas: string;
  /** Rows of that table refer to the row. */
  readonly has: (table: string) => string;
  readonly hasWhich: string;
  readonly noTerms: string;
  readonly change: string;
  readonly remove: (what: string) => string;
  readonly moveHint: string;
  readonly place: (what: string) => string;
  readonly moved: (what: string) => string;
  readonly asText: string;
  readonly value: string;
  readonly otherColumn: string;
  readonly cancel: string;
  readonly clearAll: string;
}
