import { Command, Option } from 'commander';
import { exportFile, type ExportTo } from '../export-file.ts';
import type { Asked, TypedParameters } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { headerOption, urlOption, withMatch } from './options.ts';

/** All other options are parameters, which are texts. */
type Options = Pick<Asked, 'url' | 'header'> &
  ExportTo & { readonly bom?: boolean; readonly formulas?: boolean } & {
    readonly firstLine?: string;
    readonly lineEnd?: string;
  };

const formats = ['csv', 'ndjson', 'json', 'xlsx'];

/** `ephoros export TABLE` */
export function exportCommand(terminal: Terminal): Command {
  const command = new Command('export')
    .description('write all rows of a question into a file, or to standard output')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .addOption(
      new Option('--format <format>', 'by default as the ending of the file says').choices(formats),
    )
    .option('--out <file>', 'the file; standard output by default')
    .option('--overwrite', 'even where there is such a file')
    .option('--resume', 'go on with CSV or NDJSON that was broken off, behind its last whole row')
    .option('--columns <names>', 'which columns, by commas')
    .option('--sort <terms>', 'such as "-passed_at,id"; - for descending')
    .option('--nulls <place>', 'where nulls stand: last or first')
    .option('--limit <number>', 'rows at most; all by default')
    .option('--offset <number>', 'how many rows to skip')
    .addOption(
      new Option('--first-line <names>', 'what the first line calls the columns').choices([
        ...['names', 'labels', 'none'],
      ]),
    )
    .addOption(
      new Option('--delimiter <sign>', 'between the fields of CSV').choices([
        ...['comma', 'semicolon', 'tab', 'bar'],
      ]),
    )
    .addOption(
      new Option('--missing <text>', 'what stands for null in CSV').choices([
        ...['empty', 'null', 'backslash-n'],
      ]),
    )
    .addOption(new Option('--line-end <end>', 'of the lines of CSV').choices(['crlf', 'lf']))
    .option('--bom', 'begin CSV with the mark that tells some spreadsheets that it is UTF-8')
    .option('--formulas', 'in CSV, leave texts that a spreadsheet would compute as they are')
    .addHelpText(
      'after',
      `
A file that is being written ends in .part until it is whole.

Examples:
  ephoros export passages --out passages.xlsx --filter "status = 'disputed'"
  ephoros export passages --out all.csv
  ephoros export passages --out all.csv --resume
  ephoros export boats --format ndjson | head -3`,
    );
  return withMatch(command).action(async (table: string, options: Options) => {
    const { url, header, format, out, overwrite, resume, firstLine, lineEnd, ...rest } = options;
    const { bom, formulas, ...typed } = rest;
    const parameters: TypedParameters = {
      ...(typed as TypedParameters),
      header: firstLine,
      'line-end': lineEnd,
      bom: bom === true ? 'true' : undefined,
      formulas: formulas === true ? 'true' : undefined,
    };
    await exportFile(
      { url, header },
      table,
      parameters,
      { format, out, overwrite, resume },
      terminal,
    );
  });
}
