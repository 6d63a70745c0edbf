import { ServiceError } from '@ephoros/client';
import { readView, viewOfSaved } from '@ephoros/core/view';
import { Command, Option } from 'commander';
import { extname } from 'node:path';
import { InputError } from '../input-error.ts';
import { findView } from '../saved-view.ts';
import { expectFree, forFiles, putFile } from '../out-file.ts';
import { lines, plain } from '../output/plain.ts';
import {
  readerError,
  mostReportRows,
  reportLanguageNames,
  usualLocale,
  usualReportRows,
  type ReportLanguage,
} from '../report/reader.ts';
import { reportFile, reportFormats, type ReportFormat } from '../report/report-file.ts';
import { addressed, type Requested } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption, wholeNumber } from './options.ts';

interface Options extends Requested {
  readonly format?: ReportFormat;
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
    .description('create a report of a saved view as HTML or PDF')
    .argument('<view>', 'name or id of a saved view, or a table')
    .addOption(
      new Option('--format <format>', 'HTML page, or PDF by Chromium').choices(reportFormats),
    )
    .option(
      '--out <file>',
      'where it goes; its ending says the format as well. - for standard output',
    )
    .option('--overwrite', 'overwrite an existing file')
    .option(
      '--rows <number>',
      'maximum number of rows',
      wholeNumber(1, mostReportRows),
      usualReportRows,
    )
    .addOption(
      new Option('--language <language>', 'language of the report')
        .choices(reportLanguageNames)
        .default('en'),
    )
    .option('--locale <tag>', 'locale of numbers and dates, such as en-GB')
    .option('--time-zone <zone>', 'time zone, such as Europe/Paris', 'UTC')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .addHelpText(
      'after',
      `
Examples:
  ephoros report "Dear disputes" --out disputes.html
  ephoros report "Dear disputes" --format pdf --rows 500
  ephoros report boats --out - | less

Without --out the file has the name of the view. PDF needs Chromium on the PATH or in EPHOROS_CHROMIUM.`,
    )
    .action(async (named: string, options: Options) => {
      await report(named, options, terminal);
    });
}

async function report(named: string, options: Options, terminal: Terminal): Promise<void> {
  const { stdout, stderr, environment } = terminal;
  const { language, locale = usualLocale(language), timeZone, rows, overwrite = false } = options;
  const error = readerError(locale, timeZone);
  if (error !== undefined) throw new InputError(`ephoros: ${plain(error)}`);
  const about = await aboutOf(named, options);
  const ending = extname(options.out ?? '')
    .slice(1)
    .toLowerCase();
  const format = options.format ?? reportFormats.find((one) => one === ending) ?? 'html';
  const out = options.out ?? `${fileName(about.title ?? about.table)}.${format}`;
  if (out !== '-') await expectFree(out, overwrite);
  else if (format === 'pdf' && stdout.isTTY === true) throw new InputError(forFiles);
  const wanted = { ...about, rows, language, locale, timeZone };
  const body = await reportFile(addressed(options), wanted, format, environment);
  if (out === '-') {
    stdout.write(stdout.isTTY === true ? lines(body.toString()) : body);
    return;
  }
  await putFile(out, body, overwrite);
  stderr.write(`${plain(out)}\n`);
}

/** What it is of: a saved view, or a table as it is. @throws InputError */
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
    throw thrown;
  }
}

/** A name that every file system takes. */
function fileName(title: string): string {
  return title.replaceAll(/[^\p{L}\p{N} ._-]/gu, '_').slice(0, 100);
}
