import type { Row, Value, ValuesAnswer } from '@ephoros/client';
import { isNumeric } from '@ephoros/core/schema';
import { Command } from 'commander';
import { csv } from '../output/csv.ts';
import { drawTable } from '../output/table.ts';
import { sendRequest, type Requested } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { headerOption, urlOption, withFormats, withMatch, withPlace } from './options.ts';
import { plainJson } from '../output/plain.ts';

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly json?: boolean;
  readonly csv?: boolean;
  readonly formulas?: boolean;
  readonly counts?: boolean;
  readonly [parameter: string]: string | boolean | undefined | Requested['header'];
}

/** `ephoros values TABLE COLUMN` */
export function valuesCommand(terminal: Terminal): Command {
  const sort = 'by the column itself or by "-count()"';
  return withFormats(withPlace(withMatch(new Command('values')), 'values', sort))
    .description('show the values that a column has, with their counts')
    .argument('<table>', 'a published table')
    .argument('<column>', 'a column, or a path to a related one')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--containing <text>', 'only values with this text in them')
    .option('--bins <number>', 'a histogram of so many bins, of numbers and dates')
    .option('--no-counts', 'the values alone: those of an indexed column come at once')
    .addHelpText(
      'after',
      `
Examples:
  ephoros values passages status --sort "-count()"
  ephoros values passages lock.canal.name --filter "toll > 100"
  ephoros values passages toll --bins 12
  ephoros values passages lock_id --no-counts`,
    )
    .action(
      async (
        table: string,
        column: string,
        { url, header, json, csv: asCsv, formulas, counts, ...rest }: Options,
      ) => {
        // All other options are parameters, which are texts.
        const parameters = {
          ...(rest as Readonly<Record<string, string | undefined>>),
          ...(counts === false ? { counts: 'false' } : {}),
        };
        const read = await sendRequest(
          { url, header, terminal },
          table,
          { valuesOf: column },
          parameters,
        );
        const answer = read.answer as ValuesAnswer;
        const { name, type } = answer.column;
        const isCounted = answer.values.some(({ count }) => count !== null);
        const rows: Row[] = answer.values.map(({ value, count }) => ({
          [name]: value,
          ...(isCounted ? { rows: count } : {}),
        }));
        if (json === true) terminal.stdout.write(`${plainJson(read.text)}\n`);
        else if (asCsv === true)
          terminal.stdout.write(
            csv([{ name }, ...(isCounted ? [{ name: 'rows' }] : [])], rows, terminal, { formulas }),
          );
        else {
          const columns = [
            { name, label: name, right: isNumeric(type) },
            ...(isCounted ? [{ name: 'rows', label: 'rows', right: true }] : []),
          ];
          const lines = rows.map((row) => (isCounted ? { ...row, rows: counted(row.rows) } : row));
          terminal.stdout.write(
            `${drawTable(columns, lines, terminal)}${footer(answer)}\n${histogram(answer, terminal)}`,
          );
        }
      },
    );
}

function footer({ window, range }: ValuesAnswer): string {
  const { offset, count, total } = window;
  const place =
    offset === null || count === 0 ? '' : ` ${counted(offset + 1)}–${counted(offset + count)}`;
  const spread =
    range === undefined || range === null
      ? ''
      : `; from ${text(range.least)} to ${text(range.greatest)}`;
  return `values${place}${total === null ? '' : ` of ${counted(total)}`}${spread}`;
}

/** Characters of the longest bar. */
const longest = 40;

function histogram({ histogram: bins }: ValuesAnswer, terminal: Terminal): string {
  if (bins === undefined) return '';
  const most = Math.max(1, ...bins.map(({ count }) => count));
  const columns = [
    { name: 'from', label: 'from', right: true },
    { name: 'to', label: 'to', right: true },
    { name: 'rows', label: 'rows', right: true },
    { name: 'bar', label: '', right: false },
  ];
  const lines: Row[] = bins.map(({ from, to, count }) => ({
    from,
    to,
    rows: counted(count),
    // What is there at all is visible.
    bar: count === 0 ? '' : '█'.repeat(Math.max(1, Math.round((count / most) * longest))),
  }));
  return `\n${drawTable(columns, lines, terminal)}`;
}

function counted(count: unknown): string {
  return typeof count === 'number' ? count.toLocaleString('en') : '';
}

function text(value: Value): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}
