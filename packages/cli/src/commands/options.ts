import { createClient, type Client } from '@ephoros/client';
import { InvalidArgumentError, Option, type Command } from 'commander';
import type { Terminal } from '../terminal.ts';

const defaultUrl = 'http://127.0.0.1:4620';

/** --url, with the environment variable EPHOROS_URL behind it. */
export function urlOption({ environment }: Terminal): Option {
  return new Option('--url <url>', 'the service (or EPHOROS_URL)').default(
    environment.EPHOROS_URL ?? defaultUrl,
  );
}

export function clientFor({ url }: { url: string }): Client {
  return createClient({ url });
}

/** Reads an option's whole number within bounds. */
export function wholeNumber(least: number, most: number): (text: string) => number {
  return (text) => {
    const value = /^\d+$/.test(text) ? Number(text) : NaN;
    if (value >= least && value <= most) return value;
    throw new InvalidArgumentError(`Expected a whole number from ${least} to ${most}.`);
  };
}

/** The options that say which rows, and where; each is a parameter of the service. */
export function withQuestion(command: Command): Command {
  return command
    .option('--columns <names>', 'which columns, by commas')
    .option('--filter <condition>', 'which rows, such as "toll > 100"')
    .option('--search <words>', 'words and "quoted phrases" that must all occur')
    .option('--sort <terms>', 'such as "-passed_at,id"; - for descending')
    .option('--nulls <place>', 'where nulls stand: last or first')
    .option('--limit <rows>', 'rows at most')
    .option('--page <number>', 'which page, from 1')
    .addOption(new Option('--offset <rows>', 'how many rows to skip').conflicts('page'))
    .addOption(
      new Option('--after <cursor>', 'the rows just after a cursor').conflicts(['page', 'offset']),
    )
    .addOption(
      new Option('--before <cursor>', 'the rows just before a cursor').conflicts([
        'page',
        'offset',
        'after',
      ]),
    );
}
