/** The languages that reports speak. */
export const reportLanguageNames = ['en', 'ar'] as const;

export type ReportLanguage = (typeof reportLanguageNames)[number];

/** Rows of a report at most, and where nobody says. */
export const mostReportRows = 1_000;
export const usualReportRows = 100;

/** By which numbers and dates are written where nobody says. */
export function usualLocale(language: ReportLanguage): string {
  return language === 'en' ? 'en-GB' : language;
}

/** Why a language tag or a time zone cannot be written by; undefined where it can. */
export function readerError(locale: string, timeZone: string): string | undefined {
  try {
    new Intl.DateTimeFormat(locale);
  } catch {
    return `${locale} is no language tag, such as en-GB.`;
  }
  try {
    new Intl.DateTimeFormat('en', { timeZone });
  } catch {
    return `${timeZone} is no time zone, such as Europe/Paris.`;
  }
  return undefined;
}
