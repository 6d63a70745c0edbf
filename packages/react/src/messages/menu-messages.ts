/** The texts of the cell menu, of copying, and of keyboard shortcuts, in one language. */
export interface MenuMessages {
  readonly label: string;
  readonly only: (label: string, value: string) => string;
  readonly but: (label: string, value: string) => string;
  readonly from: (label: string, value: string) => string;
  readonly upTo: (label: string, value: string) => string;
  readonly groupBy: (label: string) => string;
  readonly copyCell: string;
  readonly copyCells: string;
  /** Whether copies have them. */
  readonly withHeaders: string;
  readonly copyRow: string;
  readonly copySelected: string;
  readonly copied: (count: number, written: string) => string;
  readonly tooManyToCopy: (most: string) => string;
  readonly notCopied: string;
  /** The sheet of keys. */
  readonly keysOfRows: string;
  readonly keysOfHeader: string;
  readonly inMenu: string;
  /** Keys, and what they do. */
  readonly keys: readonly (readonly [string, string])[];
  readonly headerKeys: readonly (readonly [string, string])[];
  /** What the menus of cells and headers offer. */
  readonly offers: readonly string[];
}
