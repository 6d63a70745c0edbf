import type { AggregatesAnswer, Row } from '@ephoros/client';
import { Command } from 'commander';
import { csv } from '../output/csv.ts';
import { drawTable } from '../output/table.ts';
import { sendRequest } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { headerOption, urlOption, withFormats, withMatch } from './options.ts';
import { plainJson } from '../output/plain.ts';

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly filter?: string;
  readonly search?: string;
  readonly aggregate?: string;
  readonly json?: boolean;
  readonly csv?: boolean;
  readonly formulas?: boolean;
}

/** `ephoros aggregates TABLE` */
export function aggregatesCommand(terminal: Terminal): Command {
  return withFormats(withMatch(new Command('aggregates')))
    .description('show aggregates of all matching rows')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--aggregate <list>', 'such as "sum(toll),percentile(toll,90)"; count() by default')
    .addHelpText(
      'after',
      `
Examples:
  ephoros aggregates passages --aggregate "count(),sum(toll),avg(wait_minutes)"
  ephoros aggregates passages --aggregate "median(toll)" --filter "status = 'disputed'" --json`,
    )
    .action(
      async (
        table: string,
        { url, header, json, csv: asCsv, formulas, ...parameters }: Options,
      ) => {
        const { answer, text } = await sendRequest({ url, header, terminal }, table, 'aggregates', {
          ...parameters,
        });
        const { aggregates, values } = answer as AggregatesAnswer;
        if (json === true) {
          terminal.stdout.write(`${plainJson(text)}\n`);
          return;
        }
        if (asCsv === true) {
          terminal.stdout.write(csv(aggregates, [values], terminal, { formulas }));
          return;
        }
        const columns = [
          { name: 'name', label: 'aggregate', right: false },
          { name: 'value', label: 'value', right: true },
        ];
        const lines: Row[] = aggregates.map(({ name }) => ({ name, value: values[name] ?? null }));
        terminal.stdout.write(drawTable(columns, lines, terminal));
      },
    );
}
