import type { Tone } from '@ephoros/core/schema';
import type { Height, RowStyle } from '@ephoros/core/view';

/** What the sheets of columns, of looks and of paint say, in one language. */
export interface LayoutMessages {
  /** Columns. */
  readonly shown: string;
  readonly others: string;
  readonly related: string;
  readonly place: (label: string, place: number, of: number) => string;
  readonly moved: (label: string, place: number, of: number) => string;
  readonly moveHint: string;
  readonly atStart: (label: string) => string;
  readonly atEnd: (label: string) => string;
  readonly fitAll: string;
  readonly reset: string;

  /** Rows. */
  readonly rowStyles: Readonly<Record<RowStyle, string>>;
  readonly height: string;
  readonly heights: Readonly<Record<Height, string>>;

  /** Paint. */
  readonly paint: string;
  readonly paintHint: string;
  readonly addTone: string;
  readonly add: string;
  readonly addBar: string;
  readonly addScale: string;
  readonly tones: Readonly<Record<Tone, string>>;
  readonly tone: string;
  readonly when: string;
  readonly whole: string;
  readonly target: string;
  readonly barOf: (label: string) => string;
  readonly scaleOf: (label: string) => string;
  readonly from: string;
  readonly to: string;
  readonly ofShown: string;
  readonly dropRule: (rule: string) => string;
  readonly ownPaint: string;
  readonly unfit: Readonly<Record<'unknown' | 'other-rows' | 'no-number', string>>;
}
