import type { SectionKind } from '@ephoros/core/schema';

/** What the card of a row says, in one language. */
export interface CardMessages {
  readonly close: string;
  /** To the row before and behind it, in the table's order. */
  readonly previous: string;
  readonly next: string;
  /** To the row that one has come from. */
  readonly back: string;
  readonly gone: (key: string) => string;
  readonly sections: Readonly<Record<SectionKind, string>>;
  readonly referring: string;
  readonly openAll: (table: string) => string;
  readonly raw: string;
  readonly copy: (label: string) => string;
  readonly copyShort: string;
  readonly copied: (label: string) => string;
  readonly notCopied: string;
}
