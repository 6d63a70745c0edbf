import type { ClientOptions } from '@ephoros/client';
import { findBrowser } from './find-browser.ts';
import type { PrintOptions } from './pdf.ts';
import type { WantedReport } from './report-html.ts';

export const reportFormats = ['html', 'pdf'] as const;

export type ReportFormat = (typeof reportFormats)[number];

/**
 * A report as a file. Rejects as the service's client does. @throws NoBrowserError, before any work, where a PDF wants
 * one that is not there
 */
export async function reportFile(
  service: ClientOptions,
  wanted: WantedReport,
  format: ReportFormat,
  environment: Readonly<Record<string, string | undefined>>,
  options: PrintOptions = {},
): Promise<Buffer> {
  const browser = format === 'pdf' ? await findBrowser(environment) : undefined;
  // What draws is loaded with the first report.
  const { reportHtml } = await import('./report-html.ts');
  const html = await reportHtml(service, wanted, options.signal);
  if (browser === undefined) return Buffer.from(html);
  const { pdfOf } = await import('./pdf.ts');
  return pdfOf(html, browser, options);
}
