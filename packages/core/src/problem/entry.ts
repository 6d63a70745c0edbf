/** The status and the wording of one problem. */
export interface Entry<Facts> {
  /** HTTP status of an answer that holds this problem. */
  readonly status: 400 | 403 | 404 | 409 | 412 | 413 | 422 | 428 | 501;
  readonly message: (facts: Facts) => string;
  readonly hint?: (facts: Facts) => string | undefined;
}

export const entry = <Facts>(one: Entry<Facts>): Entry<Facts> => one;

/** What somebody may have meant, where something near is known. */
export const meant = ({ near }: { near?: string | undefined }): string | undefined =>
  near === undefined ? undefined : `Did you mean ${near}?`;
