import { createClient, type ClientOptions } from '@ephoros/client';
import type { View } from '@ephoros/core/view';
import { fetchReport, reportLanguages, reportPage } from '@ephoros/react/report';
import { parseHTML } from 'linkedom';
import { harmlessPage } from './harmless-page.ts';
import type { ReportLanguage } from './reader.ts';

/** What a report is made of, and for whom. */
export interface WantedReport {
  readonly table: string;
  readonly view: View;
  readonly title?: string | undefined;
  readonly note?: string | undefined;
  /** Rows at most. */
  readonly rows: number;
  readonly language: ReportLanguage;
  /** A BCP 47 language tag, by which numbers and dates are written. */
  readonly locale: string;
  /** An IANA time zone. */
  readonly timeZone: string;
}

/** Makes a report as one HTML page, from a service's answers. Rejects as its client does. */
export async function reportHtml(
  service: ClientOptions,
  { language, locale, timeZone, ...wanted }: WantedReport,
  signal?: AbortSignal,
): Promise<string> {
  const { messages, reportMessages } = reportLanguages[language];
  const content = await fetchReport({
    ...wanted,
    client: createClient(service),
    reader: { locale, timeZone, messages },
    messages: reportMessages,
    now: new Date(),
    ...(signal && { signal }),
  });
  const { document } = parseHTML('<html><body></body></html>');
  return harmlessPage(reportPage(content, document));
}
