import type { AdviceAnswer } from '@ephoros/core/answer';
import { Command } from 'commander';
import { plain, plainJson } from '../output/plain.ts';
import { sendRequest, type Requested, type TypedParameters } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { headerOption, urlOption, withQueryOptions } from './options.ts';

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly json?: boolean;
  readonly [parameter: string]: string | boolean | undefined | Requested['header'];
}

/** `ephoros advise TABLE` */
export function adviseCommand(terminal: Terminal): Command {
  return withQueryOptions(new Command('advise'))
    .description('suggest an index for a query (creates nothing)')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--json', 'print JSON')
    .addHelpText(
      'after',
      `
Examples:
  ephoros advise passages --filter "status = 'disputed'" --sort -toll
  ephoros advise passages --search heron --json

If the extension hypopg is installed, the output has the planner's cost with the index.`,
    )
    .action(async (table: string, { url, header, json, ...parameters }: Options) => {
      // All other options are parameters, which are texts.
      const typed = parameters as TypedParameters;
      const { answer } = await sendRequest({ url, header, terminal }, table, 'advice', typed);
      const { advice } = answer as AdviceAnswer;
      terminal.stdout.write(
        json === true
          ? `${plainJson(JSON.stringify(answer, null, 2))}\n`
          : advice.length === 0
            ? 'No index would serve this question.\n'
            : advice.map(describeAdvice).join('\n'),
      );
    });
}

type Advice = AdviceAnswer['advice'][number];

function describeAdvice({
  kind,
  table,
  columns,
  equal,
  statement,
  served,
  size,
  cost,
}: Advice): string {
  const order = columns.slice(equal.length);
  const why = {
    ordered: [
      equal.length > 0 ? `${equal.join(', ')} compared with one value` : undefined,
      order.length > 0
        ? `${equal.length > 0 ? 'then ' : ''}in the order of ${order.join(', ')}`
        : undefined,
    ],
    trigrams: [`parts of the texts of ${columns.join(', ')}`],
    words: [`words of ${columns.join(', ')}`],
  }[kind].filter((one) => one !== undefined);
  const lines = [
    `${table}: ${why.join(', ')}`,
    served === null ? `  ${statement};` : `  ${served} serves already.`,
    ...(served === null ? [`  about ${bytes(size)}`] : []),
    ...(cost === undefined
      ? []
      : [
          `  cost ${cost.without.toFixed(0)}${cost.with === undefined ? '' : `, with it ${cost.with.toFixed(0)}`}`,
        ]),
  ];
  return `${lines.map(plain).join('\n')}\n`;
}

function bytes(count: number): string {
  const units = ['bytes', 'kB', 'MB', 'GB', 'TB'];
  let size = count;
  let unit = 0;
  while (size >= 1_000 && unit < units.length - 1) {
    size /= 1_000;
    unit += 1;
  }
  return `${size < 10 && unit > 0 ? size.toFixed(1) : Math.round(size)} ${units[unit] ?? ''}`;
}
