import { typeName } from '@ephoros/core/schema';
import { Command } from 'commander';
import { drawTable } from '../output/table.ts';
import type { Terminal } from '../terminal.ts';
import type { Requested } from '../request.ts';
import { clientFor, headerOption, urlOption } from './options.ts';
import { plain, plainJson } from '../output/plain.ts';

/** `ephoros describe TABLE` */
export function describeCommand(terminal: Terminal): Command {
  return new Command('describe')
    .description('show the columns of a table')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--json', 'print JSON')
    .addHelpText(
      'after',
      '\nExamples:\n  ephoros describe passages\n  ephoros describe passages --json',
    )
    .action(async (table: string, options: Requested & { json?: boolean }) => {
      const description = await clientFor(options).describe(table);
      if (options.json) {
        terminal.stdout.write(`${plainJson(JSON.stringify(description, null, 2))}\n`);
        return;
      }
      const { title, kind, key, defaultSort, rowCap, comment, remarks } = description;
      const sort = defaultSort.map(({ column, descending }) => (descending ? '-' : '') + column);
      const lines = [
        `${title} (${kind} ${description.name})${comment === undefined ? '' : `: ${comment}`}`,
        `key: ${key.length === 0 ? 'none' : key.join(', ')}`,
        `sort: ${[...sort, ...(key.length > 0 ? ['then the key'] : [])].join(', ') || 'none'}`,
        `rows in one answer: at most ${rowCap.toLocaleString('en')}`,
        ...remarks.map((remark) => `note: ${remark}`),
      ];
      const rows = description.columns.map((column) => ({
        name: column.name,
        type: `${typeName(column.type)}${column.nullable ? '' : ', never null'}`,
        uses: [
          column.filterable ? 'filter' : '',
          column.sortable ? (column.indexed ? 'sort (indexed)' : 'sort') : '',
          column.groupable ? 'group' : '',
          column.aggregates.includes('sum') ? 'sum' : '',
        ]
          .filter((use) => use !== '')
          .join(', '),
        comment:
          column.comment ?? (column.type.kind === 'enum' ? column.type.values.join(', ') : null),
      }));
      const columns = [
        { name: 'name', label: 'Column', right: false },
        { name: 'type', label: 'Type', right: false },
        { name: 'uses', label: 'For', right: false },
        { name: 'comment', label: 'Remark', right: false },
      ];
      terminal.stdout.write(
        `${lines.map(plain).join('\n')}\n\n${drawTable(columns, rows, terminal)}`,
      );
    });
}
