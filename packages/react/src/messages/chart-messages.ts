import type { ChartKind, ChartSide } from '@ephoros/core/view';

/** What charts say, in one language. */
export interface ChartMessages {
  readonly title: string;
  readonly kinds: Readonly<Record<ChartKind, string>>;
  readonly kind: string;
  readonly by: string;
  readonly of: string;
  readonly rows: string;
  readonly side: string;
  readonly sides: Readonly<Record<ChartSide, string>>;
  readonly draw: string;
  readonly drop: string;
  readonly fold: string;
  readonly unfold: string;
  readonly numbers: string;
  readonly picture: string;
  readonly saveSvg: string;
  readonly savePng: string;
  readonly reading: string;
  readonly nothing: string;
  readonly missing: string;
  /** Of so many groups only the first ones are drawn. */
  readonly largest: (shown: string, all: string) => string;
  readonly first: (shown: string, all: string) => string;
  readonly noColumns: string;
  /** What a press does. */
  readonly narrow: (what: string) => string;
  readonly heading: (kind: string, of: string, by: string) => string;
  readonly spread: Readonly<
    Record<'least' | 'quarter' | 'median' | 'threeQuarters' | 'greatest', string>
  >;
  readonly from: string;
  readonly to: string;
}
