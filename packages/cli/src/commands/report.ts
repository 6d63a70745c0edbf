import { ServiceError } from '@ephoros/client';
import { readView, viewOfSaved } from '@ephoros/core/view';
import { Command, Option } from 'commander';
import { stat, writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { InputError } from '../input-error.ts';
import { findView } from '../kept-view.ts';
import { plain } from '../output/plain.ts';
import {
  mistakeOfReader,
  mostReportRows,
  reportLanguageNames,
  usualLocale,
  usualReportRows,
  type ReportLanguage,
} from '../report/reader.ts';
import { addressed, QuestionError, type Asked } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption, wholeNumber } from './options.ts';
import { part } from './parts.ts';

interface Options extends Asked {
  readonly format?: 'html' | 'pdf';
  readonly out?: string;
  readonly overwrite?: boolean;
  readonly rows: number;
  readonly language: ReportLanguage;
  readonly locale?: string;
  readonly timeZone: string;
}

/** `ephoros report VIEW` */
export function reportCommand(terminal: Terminal): Command {
  return new Command('report')
    .description(
      'a kept view as a report: its sentence, chart, groups and first rows, as a page or as PDF',
    )
    .argument('<view>', 'the name or id of a kept view, or the name of a table')
    .addOption(
      new Option('--format <format>', 'as one HTML page, or as PDF by Chromium').choices([
        'html',
        'pdf',
      ]),
    )
    .option(
      '--out <file>',
      'where it goes; its ending says the format as well. - for standard output',
    )
    .option('--overwrite', 'also where there is such a file already')
    .option('--rows <number>', 'rows at most', wholeNumber(1, mostReportRows), usualReportRows)
    .addOption(
      new Option('--language <language>', 'that it speaks')
        .choices(reportLanguageNames)
        .default('en'),
    )
    .option('--locale <tag>', 'by which numbers and dates are written, such as en-GB')
    .option('--time-zone <zone>', 'of moments, such as Europe/Paris', 'UTC')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .addHelpText(
      'after',
      `
Examples:
  ephoros report "Dear disputes" --out disputes.html
  ephoros report "Dear disputes" --format pdf --rows 500
  ephoros report boats --out - | less

Without --out the file is called after the view. PDF is made by the Chromium that is there: on the
path, or by EPHOROS_CHROMIUM.`,
    )
    .action(async (named: string, options: Options) => {
      await report(named, options, terminal);
    });
}

async function report(named: string, options: Options, terminal: Terminal): Promise<void> {
  const { makeReport } = await part('@ephoros/react', () => import('../report/make-report.ts'));
  const { language, locale = usualLocale(language), timeZone, rows } = options;
  const mistake = mistakeOfReader(locale, timeZone);
  if (mistake !== undefined) throw new InputError(`ephoros: ${plain(mistake)}`);
  const about = await aboutOf(named, options);
  const format = options.format ?? formatOf(options.out) ?? 'html';
  const out = options.out ?? `${fileName(about.title ?? about.table)}.${format}`;
  if (out === '-' && format === 'pdf' && terminal.stdout.isTTY === true) {
    throw new InputError('ephoros: This is nothing for a terminal: give --out with a file.');
  }
  if (out !== '-' && options.overwrite !== true && (await isThere(out))) {
    throw new InputError(
      `ephoros: There is a file ${plain(out)} already: give --overwrite, or another name.`,
    );
  }
  const { findBrowser, pdfOf } = await import('../report/pdf.ts');
  // That there is none is said before the work is done.
  const browser = format === 'pdf' ? await findBrowser(terminal.environment) : undefined;
  const wanted = { ...about, rows, language, locale, timeZone };
  const html = await makeReport(addressed(options), wanted).catch((thrown: unknown) => {
    throw thrown instanceof ServiceError ? new QuestionError(thrown, {}) : thrown;
  });
  const body = browser === undefined ? Buffer.from(html) : await pdfOf(html, browser);
  if (out === '-') terminal.stdout.write(body);
  else {
    await writeFile(out, body).catch((thrown: unknown) => {
      throw new InputError(
        `ephoros: The file cannot be written: ${plain((thrown as Error).message)}`,
      );
    });
    terminal.stderr.write(`${plain(out)}\n`);
  }
}

/** What it is of: a kept view, or a table as it is. @throws InputError */
async function aboutOf(
  named: string,
  options: Options,
): Promise<{
  table: string;
  view: ReturnType<typeof readView>['view'];
  title?: string;
  note?: string;
}> {
  const client = clientFor(options);
  const isTable = async (): Promise<boolean> =>
    client.describe(named).then(
      () => true,
      (thrown: unknown) => {
        if (thrown instanceof ServiceError && thrown.status === 404) return false;
        throw thrown;
      },
    );
  try {
    const { table, view, name, note } = await findView(client, named);
    return { table, view: viewOfSaved(view).view, title: name, note };
  } catch (thrown) {
    const isUnkept =
      thrown instanceof InputError || (thrown instanceof ServiceError && thrown.kind === 'refused');
    if (isUnkept && (await isTable())) return { table: named, view: readView({}).view };
    throw thrown instanceof ServiceError ? new QuestionError(thrown, {}) : thrown;
  }
}

function formatOf(out: string | undefined): Options['format'] {
  const ending = extname(out ?? '')
    .slice(1)
    .toLowerCase();
  return ending === 'html' || ending === 'pdf' ? ending : undefined;
}

/** A name that every file system takes. */
function fileName(title: string): string {
  return title.replaceAll(/[^\p{L}\p{N} ._-]/gu, '_').slice(0, 100);
}

async function isThere(path: string): Promise<boolean> {
  return stat(path).then(
    () => true,
    () => false,
  );
}
