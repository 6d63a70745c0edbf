/** Everything that the console itself says, in one language. Numbers come written for the reader. */
export interface Words {
  /** The line on top of every page. */
  readonly allTables: string;
  readonly preferences: string;
  /** The link to the documentation site. */
  readonly docs: string;
  readonly connect: string;
  /** What the other language calls itself. */
  readonly otherLanguage: string;
  readonly secondTable: string;
  readonly alone: string;

  /** Preferences. */
  readonly language: string;
  readonly theme: string;
  readonly themes: Readonly<Record<'system' | 'light' | 'dark', string>>;
  readonly density: string;
  readonly timeZone: string;
  readonly ownTimeZone: (zone: string) => string;
  readonly motion: string;
  readonly motions: Readonly<Record<'system' | 'none', string>>;
  readonly close: string;
  /** Slowness and failures on demand. */
  readonly simulation: string;
  readonly simulationHint: string;
  readonly delay: string;
  readonly fail: string;

  /** The list of tables. */
  readonly reading: string;
  readonly noTables: string;
  readonly find: (count: string) => string;
  readonly findTable: string;
  readonly recent: string;
  readonly noSuchTable: string;
  readonly first: (title: string) => string;
  readonly showFirst: string;
  readonly notFirst: string;
  readonly views: string;
  readonly moreViews: string;
  readonly aView: string;
  readonly notCounted: string;
  readonly about: (rows: string) => string;
  /** An exact number of rows: the number, and its text. */
  readonly rows: (count: number, rows: string) => string;

  /** Pages. */
  readonly noPage: string;
  readonly toTables: string;
  readonly readingView: string;
  readonly chooseSecondTable: string;

  /** Signing in. */
  readonly signIn: string;
  readonly signInFirst: string;
  readonly signInUnavailable: string;
  readonly signInRefused: string;
  readonly noWayIn: string;
  readonly signedOut: string;
  readonly goOn: string;
  readonly token: string;
  readonly tokenRefused: string;
  readonly letProgram: (name: string) => string;
  readonly letProgramHint: string;
  readonly letProgramFailed: string;
  readonly allow: string;
  readonly signOut: string;
  readonly nothingForRoles: (name: string) => string;

  /** Connect. */
  readonly connectTitle: string;
  readonly what: string;
  readonly query: string;
  readonly change: string;
  readonly example: string;
  readonly asWhat: string;
  readonly copy: string;
  readonly copied: string;
  readonly copyRefused: string;
  /** What a way to ask is called, and what it needs; by its name in English. */
  readonly ways: Readonly<Record<string, readonly [name: string, about: string]>>;
}
