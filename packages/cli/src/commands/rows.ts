import type { RowsAnswer } from '@ephoros/client';
import { namedColumns } from '../named-columns.ts';
import { isNumeric, shownNames, type TableDescription } from '@ephoros/core/schema';
import { Command } from 'commander';
import { csv } from '../output/csv.ts';
import { drawTable } from '../output/table.ts';
import { sendRequest, type Requested } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import {
  clientFor,
  headerOption,
  selectionOf,
  urlOption,
  withFormats,
  withQueryOptions,
} from './options.ts';
import type { UsedSelection } from '../selection.ts';
import { plainJson } from '../output/plain.ts';

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly columns?: string;
  readonly filter?: string;
  readonly search?: string;
  readonly sort?: string;
  readonly nulls?: string;
  readonly limit?: string;
  readonly page?: string;
  readonly offset?: string;
  readonly after?: string;
  readonly before?: string;
  readonly total?: string;
  readonly cells?: string;
  readonly json?: boolean;
  readonly csv?: boolean;
  readonly formulas?: boolean;
}

/** `ephoros rows TABLE` */
export function rowsCommand(terminal: Terminal): Command {
  return withFormats(withQueryOptions(new Command('rows')))
    .description('show rows of a table')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--total <kind>', 'total: exact, estimate or none')
    .option('--cells <number>', 'maximum number of characters per value')
    .addHelpText(
      'after',
      `
Examples:
  ephoros rows passages --sort -passed_at --limit 20
  ephoros rows passages --filter "status = 'disputed' AND toll > 100" --page 2
  ephoros rows boats --columns id,name --csv > boats.csv
  ephoros rows passages --selection keys.txt --columns id,status,toll`,
    )
    .action(
      async (
        table: string,
        { url, header, json, csv: asCsv, formulas, ...parameters }: Options,
        command: Command,
      ) => {
        const names = parameters.columns ?? (await namesFor({ url, header }, table, json ?? asCsv));
        const read = await sendRequest({ url, header, terminal }, table, 'rows', {
          ...parameters,
          columns: names,
        });
        const answer = read.answer as RowsAnswer;
        reportMissing(selectionOf(command), parameters, answer, terminal);
        if (json) {
          terminal.stdout.write(`${plainJson(read.text)}\n`);
          return;
        }
        const description = await clientFor({ url, header }).describe(table);
        const columns = columnsOf(answer, description);
        if (asCsv) terminal.stdout.write(csv(columns, answer.rows, terminal, { formulas }));
        else
          terminal.stdout.write(`${drawTable(columns, answer.rows, terminal)}${footer(answer)}\n`);
      },
    );
}

/**
 * What people read of a table where nobody has stated it: the names of what rows refer to. Scripts get
 * the rows as they are.
 */
async function namesFor(
  wanted: Requested,
  table: string,
  script: boolean | undefined,
): Promise<string | undefined> {
  if (script === true) return undefined;
  // What is wrong with the table is reported by the question itself.
  const description = await clientFor(wanted)
    .describe(table)
    .catch(() => undefined);
  if (description?.related === undefined) return undefined;
  return namedColumns(shownNames(description));
}

/** Says how many keys of a selection have no row, where nothing else narrows it. */
function reportMissing(
  selection: UsedSelection | undefined,
  { filter, search }: Pick<Options, 'filter' | 'search'>,
  { window: { total, totalKind } }: RowsAnswer,
  { stderr }: Terminal,
): void {
  if (selection === undefined || search !== undefined || totalKind !== 'exact') return;
  if (filter !== selection.condition || total === null || total >= selection.keys.length) return;
  const { length } = selection.keys;
  stderr.write(`${length - total} of ${length} keys have no row (any more).\n`);
}

function columnsOf(
  { columns }: RowsAnswer,
  description: TableDescription,
): { name: string; label: string; right: boolean }[] {
  return columns.map((name) => {
    const type = description.columns.find((column) => column.name === name)?.type;
    return { name, label: name, right: type !== undefined && isNumeric(type) };
  });
}

/** "rows 201–250 of 200,000" */
function footer({ window, rows }: RowsAnswer): string {
  const { offset, total, totalKind, rowCap } = window;
  const count = (value: number): string => value.toLocaleString('en');
  const whole =
    total === null ? '' : ` of ${totalKind === 'estimate' ? 'about ' : ''}${count(total)}`;
  const cap = rowCap === undefined ? '' : ` (at most ${count(rowCap)} in one answer)`;
  if (rows.length === 0) return `no rows${whole}`;
  if (offset === null) return `${count(rows.length)} rows${whole}${cap}`;
  return `rows ${count(offset + 1)}–${count(offset + rows.length)}${whole}${cap}`;
}
