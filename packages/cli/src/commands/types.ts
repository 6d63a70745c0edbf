import { catalogOf, type Client } from '@ephoros/client';
import type { TableDescription } from '@ephoros/core/schema';
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Command, InvalidArgumentError } from 'commander';
import { typesOf } from '../output/types.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption } from './options.ts';
import { lines } from '../output/plain.ts';

interface TypesOptions {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly out?: string;
  readonly table: readonly string[];
  readonly depth: number;
}

/** `ephoros types` */
export function typesCommand(terminal: Terminal): Command {
  return new Command('types')
    .description('write TypeScript types of the published tables, for createClient<Tables>')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--out <file>', 'write them to a file instead of standard output')
    .option('--table <name>', 'only this table; may be given more than once', added, [])
    .option('--depth <steps>', 'foreign keys that related columns are followed over', readDepth, 2)
    .addHelpText(
      'after',
      '\nExamples:\n  ephoros types --out src/tables.ts\n  ephoros types --table passages --table locks --depth 1\n  ephoros types --url https://host/records > src/tables.ts',
    )
    .action(async (options: TypesOptions) => {
      const client = clientFor(options);
      const names =
        options.table.length > 0
          ? options.table
          : (await client.tables()).tables.map(({ name }) => name);
      const descriptions = await describeAll(client, names, options.depth);
      const text = lines(typesOf(descriptions, names, { from: options.url, depth: options.depth }));
      if (options.out === undefined) {
        terminal.stdout.write(text);
        return;
      }
      await mkdir(dirname(options.out), { recursive: true });
      await writeFile(options.out, text);
      terminal.stderr.write(`${options.out}: types of ${names.length} tables\n`);
    });
}

/** The tables that are named, and those that their rows refer to. */
async function describeAll(
  client: Client,
  names: readonly string[],
  depth: number,
): Promise<readonly TableDescription[]> {
  const catalog = catalogOf(client);
  await Promise.all(names.map((name) => catalog.around(name, depth)));
  const found = new Map<string, TableDescription>();
  const collect = (name: string): void => {
    const table = catalog.known(name);
    if (table === undefined || found.has(name)) return;
    found.set(name, table);
    for (const { table: other } of table.relationships) collect(other);
  };
  names.forEach(collect);
  return [...found.values()];
}

function added(name: string, names: readonly string[]): readonly string[] {
  return [...names, name];
}

const mostSteps = 8;

function readDepth(text: string): number {
  if (/^\d$/.test(text) && Number(text) <= mostSteps) return Number(text);
  throw new InvalidArgumentError(`A whole number from 0 to ${mostSteps} is expected.`);
}
