/** What saved views say, in one language. */
export interface SavedViewMessages {
  readonly title: (table: string) => string;
  readonly reading: string;
  readonly find: string;
  readonly none: string;
  readonly noSuch: string;
  readonly more: string;
  /** What is stated about a view behind its name. */
  readonly forAll: string;
  readonly opensFirst: string;
  readonly by: (who: string) => string;
  /** Whether what is shown is as it was stored. */
  readonly saved: string;
  readonly changedSince: string;
  readonly save: string;
  readonly back: string;
  readonly plain: string;
  /** Parts of it are left out; why stands behind it. */
  readonly left: (count: number, written: string) => string;
  readonly gone: string;
  readonly saveViewAs: string;
  readonly about: (name: string) => string;
  readonly name: string;
  readonly note: string;
  readonly share: string;
  readonly first: string;
  readonly keep: string;
  readonly cancel: string;
  readonly drop: string;
  readonly reallyDrop: string;
  readonly changedMeanwhile: string;
  readonly saveOver: string;
  readonly openTheirs: string;
}
