/** One way to ask for something, or to change it. */
export interface Spelling {
  readonly name: string;
  /** What it needs, and where it runs. */
  readonly about: string;
  readonly code: string;
}
