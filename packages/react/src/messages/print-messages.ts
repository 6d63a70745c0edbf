/** What printing says, in one language. */
export interface PrintMessages {
  readonly preparing: (done: string, of: string) => string;
  readonly cancel: string;
  /** Of so many rows only the first ones are printed. */
  readonly cut: (printed: string, all: string) => string;
  readonly failed: string;
  readonly printedAt: (time: string) => string;
}
