import { ServiceError, type ViewAnswer } from '@ephoros/client';
import { printView, readView, viewOfSaved, viewParameters } from '@ephoros/core/view';
import { Command } from 'commander';
import { InputError } from '../input-error.ts';
import { eachView, findView } from '../saved-view.ts';
import { csv } from '../output/csv.ts';
import { plain, plainJson } from '../output/plain.ts';
import { explainRefusal } from '../output/refusal.ts';
import { drawTable } from '../output/table.ts';
import type { Requested } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption, withFormats } from './options.ts';

interface Formats {
  readonly json?: boolean;
  readonly csv?: boolean;
  readonly formulas?: boolean;
}

/** `ephoros views` */
export function viewsCommand(terminal: Terminal): Command {
  const command = new Command('views')
    .description('manage saved views: list, save, show, change, copy, delete')
    .addHelpText(
      'after',
      `
Examples:
  ephoros views                                   all that you see
  ephoros views list passages --search disputes
  ephoros views save passages "Dear disputes" --filter "status = 'disputed'" --sort -toll
  ephoros views change "Dear disputes" --name Disputes --share --first
  ephoros views copy Disputes "My disputes"
  ephoros views delete "My disputes"
  ephoros rows passages --view Disputes           a question by it; other options go before it

A view is named by its name or its id. ephoros views save takes the parameters of an address of the
console as they are: --address "http://…/tables/passages?filter=…".`,
    );
  const made = [list, keep, show, change, copy, drop];
  for (const [index, make] of made.entries()) {
    command.addCommand(make(terminal), { isDefault: index === 0 });
  }
  return command;
}

function asking(name: string, terminal: Terminal): Command {
  return new Command(name).addOption(urlOption(terminal)).addOption(headerOption(terminal));
}

function list(terminal: Terminal): Command {
  return withFormats(asking('list', terminal))
    .description('list saved views')
    .argument('[table]', 'only views of this table')
    .option('--search <text>', 'text in the name or the note')
    .action(
      async (
        table: string | undefined,
        options: Requested & Formats & { readonly search?: string },
      ) => {
        const { search, json, csv: asCsv } = options;
        const wanted = { ...(table && { table }), ...(search && { search }) };
        const views: ViewAnswer[] = [];
        for await (const view of eachView(clientFor(options).views, wanted)) views.push(view);
        if (json === true) {
          terminal.stdout.write(`${plainJson(JSON.stringify(views, null, 2))}\n`);
          return;
        }
        const columns = ['name', 'table', 'id', 'flags', 'note'].map((name) => ({
          name,
          label: { name: 'Name', table: 'Table', id: 'Id', flags: '', note: 'Note' }[name] ?? name,
          right: false,
        }));
        const rows = views.map((view) => ({ ...picked(view), flags: describeFlags(view) }));
        terminal.stdout.write(
          asCsv === true
            ? csv(columns, rows, terminal, options)
            : drawTable(columns, rows, terminal),
        );
      },
    );
}

function picked({
  name,
  table,
  id,
  note,
}: ViewAnswer): Record<'name' | 'table' | 'id' | 'note', string> {
  return { name, table, id, note };
}

function describeFlags({ own, by, shared, first }: ViewAnswer): string {
  const parts = [
    own ? (shared ? 'for all' : 'yours') : by === null ? 'for all' : `by ${by}`,
    ...(first ? ['opens first'] : []),
  ];
  return parts.join(', ');
}

interface Said {
  readonly name?: string;
  readonly note?: string;
  readonly share?: boolean;
  readonly first?: boolean;
}

function saying(command: Command): Command {
  return command
    .option('--note <text>', 'what it is for')
    .option('--share', 'for all who see the table')
    .option('--first', 'its table opens with it: for you, or where it is shared, for all');
}

function describeView({ name, note, share, first }: Said): Record<string, unknown> {
  return {
    ...(name !== undefined && { name }),
    ...(note !== undefined && { note }),
    ...(share !== undefined && { shared: share }),
    ...(first !== undefined && { first }),
  };
}

/** The options that spell a view, each like its parameter. */
function viewing(command: Command): Command {
  for (const name of viewParameters) {
    if (name === 'page' || name === 'offset' || name === 'filter-lang') continue;
    command.option(`--${name} <text>`, `as the parameter ${name}`);
  }
  return command.option('--address <url>', 'of the console: the view that it shows');
}

type Viewed = Readonly<Record<string, unknown>> & { readonly address?: string };

/** The view that options spell; undefined where they say nothing. @throws ServiceError */
function viewOf(options: Viewed): ReturnType<typeof readView>['view'] | undefined {
  const { address } = options;
  const query = address === undefined ? '' : address.slice(`${address}?`.indexOf('?') + 1);
  const given = new Map<string, string>(new URLSearchParams(query.replace(/#.*/s, '')));
  for (const name of viewParameters) {
    const value = options[name];
    if (typeof value === 'string') given.set(name, value);
  }
  const texts = Object.fromEntries([...given].filter(([name]) => isOfView(name)));
  if (address === undefined && Object.keys(texts).length === 0) return undefined;
  const { view, problems } = readView(texts);
  if (problems.length === 0) return view;
  const refusal = new ServiceError('refused', 'The view cannot be read.', { problems });
  throw new InputError(explainRefusal(refusal, texts).trimEnd());
}

function isOfView(name: string): boolean {
  return viewParameters.some((one) => one === name) && name !== 'page' && name !== 'offset';
}

function keep(terminal: Terminal): Command {
  return viewing(saying(asking('save', terminal)))
    .description('save a view of a table')
    .argument('<table>', 'a published table')
    .argument('<name>', 'name of the view')
    .action(async (table: string, name: string, options: Requested & Said & Viewed) => {
      const view = viewOf(options) ?? {};
      const made = await clientFor(options).views.keep({
        ...describeView(options),
        table,
        name,
        view,
      });
      printOutcome(made, 'saved', terminal);
    });
}

function show(terminal: Terminal): Command {
  return asking('show', terminal)
    .description('show a saved view')
    .argument('<view>', 'name or id')
    .option('--json', 'print JSON')
    .action(async (named: string, options: Requested & Formats) => {
      const view = await findView(clientFor(options), named);
      if (options.json === true) {
        terminal.stdout.write(`${plainJson(JSON.stringify(view, null, 2))}\n`);
        return;
      }
      const lines = [
        `${view.name} (${view.id}), of ${view.table}, ${describeFlags(view)}`,
        ...(view.note === '' ? [] : [view.note]),
        ...printView(viewOfSaved(view.view).view).map(([name, text]) => `  ${name}=${text}`),
        ...view.left.map(({ message }) => `Left out: ${message}`),
      ];
      terminal.stdout.write(`${lines.map(plain).join('\n')}\n`);
    });
}

function change(terminal: Terminal): Command {
  return viewing(saying(asking('change', terminal)))
    .description('change the name, the sharing or the query of a saved view')
    .argument('<view>', 'name or id')
    .option('--name <text>', 'new name')
    .option('--no-share', 'make it private')
    .option('--no-first', 'its table does not open with it any more')
    .action(async (named: string, options: Requested & Said & Viewed) => {
      const client = clientFor(options);
      const before = await findView(client, named);
      const view = viewOf(options);
      const given = describeView(options);
      if (view === undefined && Object.keys(given).length === 0) {
        throw new InputError('ephoros: Say what shall be otherwise; see --help.');
      }
      printOutcome(
        await client.views.change(before, { ...given, ...(view && { view }) }),
        'changed',
        terminal,
      );
    });
}

function copy(terminal: Terminal): Command {
  return saying(asking('copy', terminal))
    .description('copy a saved view')
    .argument('<view>', 'name or id')
    .argument('<name>', 'name of the copy')
    .action(async (named: string, name: string, options: Requested & Said) => {
      const client = clientFor(options);
      const { table, note, view } = await findView(client, named);
      const wanted = { note, ...describeView(options), table, name, view: viewOfSaved(view).view };
      printOutcome(await client.views.keep(wanted), 'saved', terminal);
    });
}

function drop(terminal: Terminal): Command {
  return asking('delete', terminal)
    .description('delete saved views')
    .argument('<view...>', 'names or ids')
    .action(async (all: string[], options: Requested) => {
      const client = clientFor(options);
      const found: ViewAnswer[] = [];
      for (const named of all) found.push(await findView(client, named));
      for (const view of found) {
        await client.views.drop(view.id);
        printOutcome(view, 'dropped', terminal);
      }
    });
}

function printOutcome({ name, id, table }: ViewAnswer, done: string, { stdout }: Terminal): void {
  stdout.write(`${plain(`${name} (${id}), of ${table}: ${done}`)}\n`);
}
