import { fileWords } from '@ephoros/core/file';
import { Command, Option } from 'commander';
import { exportFile, type ExportTo } from '../export-file.ts';
import type { Requested, TypedParameters } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { headerOption, urlOption, withMatch } from './options.ts';

/** All other options are parameters, which are texts. */
type Options = Pick<Requested, 'url' | 'header'> &
  ExportTo & { readonly firstLine?: string; readonly lineEnd?: string };

/** `ephoros export TABLE` */
export function exportCommand(terminal: Terminal): Command {
  const command = new Command('export')
    .description('export all rows of a query to a file or to standard output')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .addOption(
      new Option('--format <format>', 'default: by the file name extension').choices(
        fileWords.format,
      ),
    )
    .option('--out <file>', 'the file; standard output by default')
    .option('--overwrite', 'overwrite an existing file')
    .option('--resume', 'continue an interrupted CSV or NDJSON export')
    .option('--columns <names>', 'columns, separated by commas')
    .option('--group <terms>', 'export groups by these levels: "status,month(passed_at)"')
    .option('--aggregate <terms>', 'aggregates of each group: "count(),sum(toll)"')
    .option('--sort <terms>', 'columns such as "-passed_at,id"; - means descending')
    .option('--nulls <place>', 'position of nulls: last or first')
    .option('--limit <number>', 'rows at most; all by default')
    .option('--offset <number>', 'number of rows to skip')
    .addOption(
      new Option('--first-line <names>', 'header line: labels, names or none').choices(
        fileWords.header,
      ),
    )
    .addOption(new Option('--delimiter <sign>', 'CSV delimiter').choices(fileWords.delimiter))
    .addOption(new Option('--missing <text>', 'CSV text for null').choices(fileWords.missing))
    .addOption(new Option('--line-end <end>', 'CSV line end').choices(fileWords['line-end']))
    .option('--bom', 'start CSV with a UTF-8 byte order mark')
    .option('--formulas', 'in CSV, do not escape formulas')
    .addOption(
      new Option(
        '--levels <how>',
        'group levels as columns, or as collapsible lines in XLSX',
      ).choices(fileWords.levels),
    )
    .option('--value-labels', 'use value labels')
    .addHelpText(
      'after',
      `
A file that is being written ends in .part until it is whole.

Examples:
  ephoros export passages --out passages.xlsx --filter "status = 'disputed'"
  ephoros export passages --out all.csv
  ephoros export passages --out all.csv --resume
  ephoros export passages --out tolls.xlsx --group "status,year(passed_at)" --aggregate "count(),sum(toll)"
  ephoros export boats --format ndjson | head -3`,
    );
  return withMatch(command).action(async (table: string, options: Options) => {
    const {
      url,
      header,
      format,
      out,
      overwrite,
      resume,
      firstLine,
      lineEnd,
      bom,
      formulas,
      valueLabels,
      ...rest
    } = options;
    const parameters = { ...(rest as TypedParameters), header: firstLine, 'line-end': lineEnd };
    await exportFile(
      { url, header },
      table,
      parameters,
      { format, out, overwrite, resume, bom, formulas, valueLabels },
      terminal,
    );
  });
}
