import { readSimulation, type Simulation } from '@ephoros/core/simulation';
import { createClient, type Client } from '@ephoros/client';
import { InvalidArgumentError, Option, type Command } from 'commander';
import { addressed, type Requested } from '../request.ts';
import {
  readSelection,
  useSelection,
  type GivenSelection,
  type UsedSelection,
} from '../selection.ts';
import { findView, parametersOf } from '../saved-view.ts';
import { plain } from '../output/plain.ts';
import type { Terminal } from '../terminal.ts';

const defaultUrl = 'http://127.0.0.1:4620';

/** --url, with the environment variable EPHOROS_URL behind it. */
export function urlOption({ environment }: Terminal): Option {
  return new Option('--url <url>', 'URL of the service or router (or EPHOROS_URL)').default(
    environment.EPHOROS_URL ?? defaultUrl,
  );
}

/** --header, with a bearer token from the environment variable EPHOROS_TOKEN behind it. */
export function headerOption({ environment }: Terminal): Option {
  const { EPHOROS_TOKEN: token } = environment;
  const own = token === undefined ? {} : { Authorization: `Bearer ${token}` };
  return (
    new Option(
      '--header <line>',
      'header of each request, such as "Authorization: Bearer …"; repeatable',
    )
      .argParser(withHeader)
      // What is shown as the default is no secret.
      .default(own, 'EPHOROS_TOKEN as a bearer token')
  );
}

function withHeader(line: string, headers: Headers): Headers {
  const [, name, value] = /^([!#$%&'*+.^_`|~\w-]+):\s*(.*)$/s.exec(line) ?? [];
  if (name === undefined || value === undefined || /[\r\n\0]/.test(value)) {
    throw new InvalidArgumentError('A header is a name, a colon and a value.');
  }
  const same = (one: string): boolean => one.toLowerCase() === name.toLowerCase();
  const others = Object.entries(headers).filter(([one]) => !same(one));
  return { ...Object.fromEntries(others), [name]: value };
}

type Headers = Requested['header'];

export function clientFor(wanted: Requested): Client {
  return createClient(addressed(wanted));
}

/** Reads an option's whole number within bounds. */
export function wholeNumber(least: number, most: number): (text: string) => number {
  return (text) => {
    const value = /^\d+$/.test(text) ? Number(text) : NaN;
    if (value >= least && value <= most) return value;
    throw new InvalidArgumentError(`Expected a whole number from ${least} to ${most}.`);
  };
}

/** Where something listens: "127.0.0.1:9620". */
export function address(text: string): { readonly host: string; readonly port: number } {
  const [, host = '', port = ''] = /^(\[[\da-f:.]+\]|[^:]+):(\d{1,5})$/i.exec(text) ?? [];
  if (host !== '' && Number(port) <= 65_535) {
    return { host: host.replace(/^\[|\]$/g, ''), port: Number(port) };
  }
  throw new InvalidArgumentError('Expected such as 127.0.0.1:9620.');
}

/** Slowness and failures as an option says them. */
export function simulation(text: string): Simulation {
  const read = readSimulation(text);
  if (read !== undefined) return read;
  throw new InvalidArgumentError(
    'Expected such as delay=800ms,fail=5%: a minute at most, 100% at most.',
  );
}

/** The options that say which rows, and where; each is a parameter of the service. */
export function withQueryOptions(command: Command): Command {
  const described = command.option('--columns <names>', 'columns, separated by commas');
  return withPlace(
    withMatch(described),
    'rows',
    'columns such as "-passed_at,id"; - means descending',
  );
}

/** The options that say which rows. */
export function withMatch(command: Command): Command {
  return command
    .option('--filter <condition>', 'condition, such as "toll > 100"')
    .option('--search <words>', 'words and "quoted phrases", all of which must occur')
    .option('--view <view>', 'use the query of a saved view, by name or id; see ephoros views')
    .option(
      '--selection <file>',
      'only rows with these keys, one per line, from a file or - (standard input)',
      readSelection,
    )
    .hook('preAction', requestAsSavedView)
    .hook('preAction', narrow)
    .hook('postAction', (ran) => selections.get(ran)?.forget());
}

const selections = new WeakMap<Command, UsedSelection>();

/** The selection that a command was given. */
export function selectionOf(command: Command): UsedSelection | undefined {
  return selections.get(command);
}

/**
 * Takes what a saved view asks: conditions and searches apply in addition to those that are given, all else
 * where nothing is given. @throws InputError
 */
async function requestAsSavedView(command: Command): Promise<void> {
  const { view: named, url, header } = command.opts<Requested & { view?: string }>();
  if (named === undefined) return;
  const [table = ''] = command.args;
  const view = await findView(clientFor({ url, header }), named, table);
  command.setOptionValue('view', undefined);
  for (const { message } of view.left) {
    command
      .configureOutput()
      .writeErr?.(`ephoros: left out of the view ${plain(view.name)}: ${plain(message)}\n`);
  }
  const known = new Set(command.options.map((option) => option.attributeName()));
  const given = command.opts<Readonly<Record<string, unknown>>>();
  const groups = command.name() === 'groups' || given.group !== undefined;
  const part = groups ? 'groups' : known.has('columns') ? 'rows' : 'match';
  for (const [name, text] of Object.entries(parametersOf(view, part))) {
    if (!known.has(name)) continue;
    const own = given[name];
    if (name === 'filter' && typeof own === 'string') {
      command.setOptionValue(name, `(${text}) AND (${own})`);
    } else if (name === 'search' && typeof own === 'string') {
      command.setOptionValue(name, `${text} ${own}`);
    } else if (own === undefined) command.setOptionValue(name, text);
  }
}

/** Takes a selection into the filter, as a part that holds in addition to the rest. */
async function narrow(command: Command): Promise<void> {
  const { selection, filter, url, header } = command.opts<
    Requested & { selection?: GivenSelection; filter?: string }
  >();
  if (selection === undefined) return;
  const [table = ''] = command.args;
  const used = await useSelection(selection, table, clientFor({ url, header }));
  selections.set(command, used);
  const own = filter === undefined ? '' : `(${filter}) AND `;
  command.setOptionValue('filter', `${own}${used.condition}`);
  command.setOptionValue('selection', undefined);
}

/** The options that say in which order, and which part of a result. */
export function withPlace(command: Command, lines: string, sort: string): Command {
  return command
    .option('--sort <terms>', sort)
    .option('--nulls <place>', 'position of nulls: last or first')
    .option('--limit <number>', `maximum number of ${lines}`)
    .option('--page <number>', 'page number, from 1')
    .addOption(new Option('--offset <number>', `number of ${lines} to skip`).conflicts('page'))
    .addOption(
      new Option('--after <cursor>', `${lines} after this cursor`).conflicts(['page', 'offset']),
    )
    .addOption(
      new Option('--before <cursor>', `${lines} before this cursor`).conflicts([
        'page',
        'offset',
        'after',
      ]),
    );
}

/** --json, --csv and what belongs to it. */
export function withFormats(command: Command): Command {
  return command
    .option('--json', 'print JSON')
    .addOption(new Option('--csv', 'print CSV with a header line').conflicts('json'))
    .option('--formulas', 'in CSV, do not escape formulas');
}

/** What stands between the service and the database. */
export type PoolerMode = (typeof poolerModes)[number];

const poolerModes = ['detect', 'transaction', 'session', 'none'] as const;

/** `--pooler <mode>` */
export function poolerOption(description: string): Option {
  return new Option('--pooler <mode>', description).choices(poolerModes).default('detect');
}
