import { Command } from 'commander';
import { drawTable } from '../output/table.ts';
import { sendRequest, type Requested, type TypedParameters } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { headerOption, urlOption, withQueryOptions } from './options.ts';
import { lines as plainLines, plainJson } from '../output/plain.ts';

interface Explanation {
  readonly query: Readonly<Record<string, string>>;
  readonly filter?: { readonly text: string; readonly json: unknown };
  readonly sql: string;
  readonly parameters: readonly unknown[];
  /** Only of rows. */
  readonly paths?: Readonly<Record<string, string>>;
  readonly indexes: readonly string[];
  readonly rowsRead: number;
  readonly steps: readonly { depth: number; step: string; rows: number; milliseconds: number }[];
}

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly json?: boolean;
  readonly [parameter: string]: string | boolean | undefined | Requested['header'];
}

/** `ephoros explain TABLE` */
export function explainCommand(terminal: Terminal): Command {
  return withQueryOptions(new Command('explain'))
    .description('show the SQL and the query plan of a query')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--group <levels>', 'group levels, such as "status"')
    .option('--path <values>', 'parent group, such as \'["disputed"]\'')
    .option('--aggregate <list>', 'aggregates')
    .option('--json', 'print JSON')
    .addHelpText(
      'after',
      `
Examples:
  ephoros explain passages --sort -toll
  ephoros explain passages --group status --aggregate "sum(toll)"
  ephoros explain passages --filter "lock.canal.name = 'Wend Cut'" --json`,
    )
    .action(async (table: string, { url, header, json, ...parameters }: Options) => {
      // All other options are parameters, which are texts.
      const typed = parameters as TypedParameters;
      const query = typed.group === undefined ? 'rows' : 'groups';
      const { answer } = await sendRequest({ url, header, terminal }, table, query, {
        ...typed,
        ...(query === 'rows' ? { total: 'none' } : {}),
        explain: 'true',
      });
      const { explanation } = answer as { explanation: Explanation };
      terminal.stdout.write(
        json === true
          ? `${plainJson(JSON.stringify(explanation, null, 2))}\n`
          : describeExplanation(explanation, terminal),
      );
    });
}

function describeExplanation(explanation: Explanation, terminal: Terminal): string {
  const { query, filter, sql, parameters, paths = {}, indexes, rowsRead, steps } = explanation;
  const texts = Object.entries(query).map(([name, value]) => `  ${name}=${value}`);
  const bound = parameters.map((value, index) => `  $${index + 1} = ${JSON.stringify(value)}`);
  const ways = Object.entries(paths).map(([name, way]) => `  ${name}: ${way}`);
  const columns = [
    { name: 'step', label: 'Step', right: false },
    { name: 'rows', label: 'Rows', right: true },
    { name: 'milliseconds', label: 'ms', right: true },
  ];
  const lines = steps.map(({ depth, step, rows, milliseconds }) => ({
    step: `${'· '.repeat(depth)}${step}`,
    rows: rows.toLocaleString('en'),
    milliseconds: milliseconds.toFixed(3),
  }));
  const parts = [
    ['Query', ...texts],
    ...(filter === undefined ? [] : [['Filter as JSON', `  ${JSON.stringify(filter.json)}`]]),
    ['SQL', `  ${sql}`, ...bound],
    [
      'Ways taken',
      ...ways,
      `  indexes: ${indexes.join(', ') || 'none'}`,
      `  rows read: ${rowsRead.toLocaleString('en')}`,
    ],
  ];
  const text = plainLines(parts.map((part) => part.join('\n')).join('\n\n'));
  return `${text}\n\n${drawTable(columns, lines, terminal)}`;
}
