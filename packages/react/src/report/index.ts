/** Views as reports: pages that need nothing else, to be read, stored and printed. */
import { arabic } from '../messages/arabic.ts';
import { arabicChart } from '../messages/arabic-chart.ts';
import { arabicReport } from '../messages/arabic-report.ts';
import { english } from '../messages/english.ts';
import { englishChart } from '../messages/english-chart.ts';
import { englishReport } from '../messages/english-report.ts';

export { fetchReport, type ReportContent, type ReportOptions } from './report-content.ts';
export { reportPage } from './report-page.tsx';

/** What reports say, by language. */
export const reportLanguages = {
  en: { messages: english, reportMessages: { report: englishReport, chart: englishChart } },
  ar: { messages: arabic, reportMessages: { report: arabicReport, chart: arabicChart } },
} as const;
