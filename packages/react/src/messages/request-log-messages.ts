import type { RequestAbout, LoggedRequest } from '@ephoros/client';

/** What is stated about the requests of a page, in one language. */
export interface RequestLogMessages {
  readonly title: string;
  readonly none: string;
  readonly close: string;
  readonly clear: string;
  readonly columns: Readonly<
    Record<'at' | 'about' | 'address' | 'status' | 'from' | 'time' | 'count', string>
  >;
  /** What has requested. */
  readonly about: Readonly<Record<RequestAbout['kind'], string>>;
  readonly from: Readonly<Record<NonNullable<LoggedRequest['from']>, string>>;
  readonly state: Readonly<Record<Exclude<LoggedRequest['state'], 'answered'>, string>>;
  /** Stages of the service's work by their names; `way` is what else has passed. */
  readonly stages: Readonly<Record<string, string>>;
  readonly milliseconds: (written: string) => string;
  readonly copyCurl: string;
  readonly copyCode: string;
  /** A body was too long to be remembered, so that nothing can be copied. */
  readonly tooLong: string;
  readonly copied: string;
  readonly notCopied: string;
  readonly explaining: string;
  /** So many rows were read for so many that are shown. */
  readonly rowsRead: (read: string, shown: string) => string;
  readonly statement: string;
  readonly values: string;
  readonly plan: string;
  readonly costly: string;
  readonly rows: string;
  readonly ownTime: string;
  readonly notExplained: string;
  /** Which index a question would want. */
  readonly advice: string;
  readonly advising: string;
  readonly noAdvice: string;
  readonly serves: string;
  readonly size: (megabytes: string) => string;
  readonly costs: (without: string, withIt: string) => string;
  readonly copyStatement: string;
}
