/** What reports say, in one language. */
export interface ReportMessages {
  readonly madeAt: (time: string) => string;
  readonly rows: (count: string) => string;
  readonly firstRows: (shown: string, all: string) => string;
  readonly allRows: string;
  readonly groups: string;
  /** Of more groups only so many are reported. */
  readonly firstGroups: (shown: string) => string;
  readonly count: string;
  readonly nothing: string;
}
