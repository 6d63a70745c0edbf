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
    .description('write all rows of a question into a file, or to standard output')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .addOption(
      new Option('--format <format>', 'by default as the ending of the file says').choices(
        fileWords.format,
      ),
    )
    .option('--out <file>', 'the file; standard output by default')
    .option('--overwrite', 'even where there is such a file')
    .option('--resume', 'go on with CSV or NDJSON that was broken off, behind its last whole row')
    .option('--columns <names>', 'which columns, by commas')
    .option(
      '--group <terms>',
      'a line for each group instead, by these levels: "status,month(passed_at)"',
    )
    .option('--aggregate <terms>', 'what is made of the rows of each group: "count(),sum(toll)"')
    .option('--sort <terms>', 'such as "-passed_at,id"; - for descending')
    .option('--nulls <place>', 'where nulls stand: last or first')
    .option('--limit <number>', 'rows at most; all by default')
    .option('--offset <number>', 'how many rows to skip')
    .addOption(
      new Option('--first-line <names>', 'what the first line calls the columns').choices(
        fileWords.header,
      ),
    )
    .addOption(
      new Option('--delimiter <sign>', 'between the fields of CSV').choices(fileWords.delimiter),
    )
    .addOption(
      new Option('--missing <text>', 'what stands for null in CSV').choices(fileWords.missing),
    )
    .addOption(new Option('--line-end <end>', 'of the lines of CSV').choices(fileWords['line-end']))
    .option('--bom', 'begin CSV with the mark that tells some spreadsheets that it is UTF-8')
    .option('--formulas', 'in CSV, leave texts that a spreadsheet would compute as they are')
    .addOption(
      new Option(
        '--levels <how>',
        'levels of groups: columns, or lines to be folded in XLSX',
      ).choices(fileWords.levels),
    )
    .option('--value-labels', 'what coded values are called, in place of them')
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
