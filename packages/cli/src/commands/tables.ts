import { Command, Option } from 'commander';
import { csv } from '../output/csv.ts';
import { drawTable } from '../output/table.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption } from './options.ts';
import { plainJson } from '../output/plain.ts';

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly json?: boolean;
  readonly csv?: boolean;
  readonly formulas?: boolean;
}

/** `ephoros tables` */
export function tablesCommand(terminal: Terminal): Command {
  return new Command('tables')
    .description('list the published tables')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--json', 'print JSON')
    .addOption(new Option('--csv', 'print CSV').conflicts('json'))
    .addHelpText('after', '\nExamples:\n  ephoros tables\n  ephoros tables --json')
    .action(async (options: Options) => {
      const list = await clientFor(options).tables();
      if (options.json) {
        terminal.stdout.write(`${plainJson(JSON.stringify(list, null, 2))}\n`);
        return;
      }
      const columns = [
        { name: 'name', label: 'Table', right: false },
        { name: 'title', label: 'Title', right: false },
        { name: 'kind', label: 'Kind', right: false },
        { name: 'rows', label: 'Rows, about', right: true },
      ];
      const rows = list.tables.map(({ name, title, kind, estimatedRows }) => ({
        name,
        title,
        kind,
        rows: options.csv
          ? estimatedRows
          : estimatedRows === null
            ? 'unknown'
            : estimatedRows.toLocaleString('en'),
      }));
      terminal.stdout.write(
        options.csv ? csv(columns, rows, terminal, options) : drawTable(columns, rows, terminal),
      );
    });
}
