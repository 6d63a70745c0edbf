import { createClient, type Client } from '@ephoros/client';
import { InvalidArgumentError, Option } from 'commander';
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
