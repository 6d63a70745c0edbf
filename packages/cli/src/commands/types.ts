import { mkdir, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Command } from 'commander';
import { typesOf } from '../output/types.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, urlOption } from './options.ts';
import { lines } from '../output/plain.ts';

/** `ephoros types` */
export function typesCommand(terminal: Terminal): Command {
  return new Command('types')
    .description('write TypeScript types of the published tables, for createClient<Tables>')
    .addOption(urlOption(terminal))
    .option('--out <file>', 'write them to a file instead of standard output')
    .addHelpText(
      'after',
      '\nExamples:\n  ephoros types --out src/tables.ts\n  ephoros types --url https://host/records > src/tables.ts',
    )
    .action(async (options: { url: string; out?: string }) => {
      const client = clientFor(options);
      const { tables } = await client.tables();
      const descriptions = await Promise.all(tables.map(({ name }) => client.describe(name)));
      const text = lines(typesOf(descriptions, options.url));
      if (options.out === undefined) {
        terminal.stdout.write(text);
        return;
      }
      await mkdir(dirname(options.out), { recursive: true });
      await writeFile(options.out, text);
      terminal.stderr.write(`${options.out}: types of ${tables.length} tables\n`);
    });
}
