import type { GroupLine, GroupsAnswer, Row } from '@ephoros/client';
import { isNumeric, type ResultColumn } from '@ephoros/core/schema';
import { Command } from 'commander';
import { csv, type CsvOptions } from '../output/csv.ts';
import { drawTable } from '../output/table.ts';
import { sendRequest, type TypedParameters, type Requested } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import {
  headerOption,
  urlOption,
  wholeNumber,
  withFormats,
  withMatch,
  withPlace,
} from './options.ts';
import { plainJson } from '../output/plain.ts';

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly group?: string;
  readonly aggregate?: string;
  readonly path?: string;
  readonly depth: number;
  readonly json?: boolean;
  readonly csv?: boolean;
  readonly formulas?: boolean;
  readonly [parameter: string]: string | number | boolean | undefined | Requested['header'];
}

/** A line with the lines below it, as far as they were requested. */
interface Branch extends GroupLine {
  readonly groups?: readonly Branch[];
  /** How many lines below were left out. */
  readonly left?: number;
}

interface Read {
  readonly answer: GroupsAnswer;
  readonly branches: readonly Branch[];
}

/** `ephoros groups TABLE` */
export function groupsCommand(terminal: Terminal): Command {
  const sort = 'by a level or an aggregate, such as "-sum(toll)"';
  return withFormats(withPlace(withMatch(new Command('groups')), 'lines of a level', sort))
    .description('show groups with counts and aggregates')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--group <levels>', 'such as "lock.canal.name,bin(passed_at,\'P1Y\')"')
    .option('--aggregate <list>', 'such as "sum(toll),avg(wait_minutes)"')
    .option('--path <values>', 'parent group as JSON: \'["Wend Cut"]\'')
    .option('--depth <levels>', 'number of levels to show', wholeNumber(1, 6), 1)
    .addHelpText(
      'after',
      `
Examples:
  ephoros groups passages --group status --aggregate "sum(toll),share()" --sort "-count()"
  ephoros groups passages --group "lock.canal.name,bin(passed_at,'P1Y')" --depth 2
  ephoros groups boats --group "hull,initial(name)" --depth 2 --csv > boats.csv`,
    )
    .action(async (table: string, options: Options, command: Command) => {
      if (options.group === undefined) {
        command.error(
          'error: say by what, with --group <levels>, or with a --view that has groups',
        );
      }
      const { url, header, depth, json, csv: asCsv, formulas, ...rest } = options;
      // All other options are parameters, which are texts.
      const parameters = rest as TypedParameters;
      const first = await sendRequest({ url, header, terminal }, table, 'groups', parameters);
      const answer = first.answer as GroupsAnswer;
      const deepest = Math.min(depth, answer.levels.length - answer.depth);
      if (json === true && deepest === 1) {
        terminal.stdout.write(`${plainJson(first.text)}\n`);
        return;
      }
      const branches = await grow(answer, deepest, (path) =>
        below({ url, header, terminal }, table, parameters, path),
      );
      const read = { answer, branches };
      if (json === true) {
        const whole = JSON.stringify({ ...answer, groups: branches }, null, 2);
        terminal.stdout.write(`${plainJson(whole)}\n`);
      } else if (asCsv === true) terminal.stdout.write(flat(read, deepest, terminal, { formulas }));
      else terminal.stdout.write(draw(read, terminal));
    });
}

/** The lines in a group: those of the first page of its level. */
async function below(
  asker: Requested,
  table: string,
  parameters: TypedParameters,
  path: readonly unknown[],
): Promise<GroupsAnswer> {
  const begin = { page: undefined, offset: undefined, after: undefined, before: undefined };
  const wanted = { ...parameters, ...begin, path: JSON.stringify(path) };
  return (await sendRequest(asker, table, 'groups', wanted)).answer as GroupsAnswer;
}

/** Asks for the lines below, level by level, one group after the other. */
async function grow(
  answer: GroupsAnswer,
  depth: number,
  request: (path: readonly unknown[]) => Promise<GroupsAnswer>,
  above: readonly unknown[] = answer.path,
): Promise<readonly Branch[]> {
  if (depth <= 1) return answer.groups;
  const branches: Branch[] = [];
  for (const line of answer.groups) {
    const path = [...above, line.value];
    const inside = await request(path);
    const groups = await grow(inside, depth - 1, request, path);
    const left = (inside.window.total ?? groups.length) - groups.length;
    branches.push({ ...line, groups, ...(left > 0 ? { left } : {}) });
  }
  return branches;
}

function draw({ answer, branches }: Read, terminal: Terminal): string {
  const { levels, aggregates, depth, window } = answer;
  const columns = [
    {
      name: 'value',
      label: levels
        .slice(depth)
        .map(({ name }) => name)
        .join(' › '),
      right: false,
    },
    { name: 'count', label: 'rows', right: true },
    ...aggregates.map(({ name, type }) => ({ name, label: name, right: isNumeric(type) })),
  ];
  const lines = branches.flatMap((branch) => linesOf(branch, aggregates, 0));
  const total = window.total ?? branches.length;
  const first =
    window.offset === null ? '' : ` ${window.offset + 1}–${window.offset + window.count}`;
  const asOf = window.asOf === undefined ? '' : `, as of ${window.asOf}`;
  const foot =
    window.count === 0
      ? `no lines of ${total.toLocaleString('en')}`
      : `lines${first} of ${total.toLocaleString('en')}${asOf}`;
  return `${drawTable(columns, lines, terminal)}${foot}\n`;
}

function linesOf(branch: Branch, aggregates: readonly ResultColumn[], depth: number): Row[] {
  const { value, count, below: lines, groups, left } = branch;
  const lead = '  '.repeat(depth);
  const text = value === null ? '∅' : typeof value === 'string' ? value : JSON.stringify(value);
  const more = groups === undefined && lines !== null ? ` (${lines.toLocaleString('en')})` : '';
  const own: Row = {
    ...rounded(branch, aggregates),
    value: `${lead}${text}${more}`,
    count: count.toLocaleString('en'),
  };
  const rest: Row[] =
    left === undefined
      ? []
      : [{ value: `${lead}  … ${left.toLocaleString('en')} more`, count: '' }];
  return [
    own,
    ...(groups ?? []).flatMap((one) => linesOf(one, aggregates, depth + 1)),
    ...rest.map((one) => ({ ...blank(aggregates), ...one })),
  ];
}

function blank(aggregates: readonly ResultColumn[]): Row {
  return Object.fromEntries(aggregates.map(({ name }) => [name, '']));
}

/** Aggregates as they are read: averages have no end. Exact ones are in JSON and CSV. */
function rounded({ aggregates: made }: GroupLine, columns: readonly ResultColumn[]): Row {
  return Object.fromEntries(
    columns.map(({ name, format }) => {
      const value = made[name] ?? null;
      const decimals = format !== undefined && 'decimals' in format ? format.decimals : undefined;
      const number = typeof value === 'boolean' || value === null ? NaN : Number(value);
      if (decimals === undefined || Number.isNaN(number)) return [name, value];
      return [
        name,
        number.toLocaleString('en', {
          style: format?.kind === 'percent' ? 'percent' : 'decimal',
          minimumFractionDigits: decimals,
          maximumFractionDigits: decimals,
        }),
      ];
    }),
  );
}

/** The deepest lines, each with the values of the groups that it lies in. */
function flat(
  { answer, branches }: Read,
  depth: number,
  terminal: Terminal,
  options: CsvOptions,
): string {
  const { levels, aggregates } = answer;
  const shown = levels.slice(answer.depth, answer.depth + depth);
  const rows = (some: readonly Branch[], above: Row, at: number): Row[] =>
    some.flatMap((branch): Row[] => {
      const own = { ...above, [shown[at]?.name ?? 'value']: branch.value };
      if (branch.groups !== undefined) return rows(branch.groups, own, at + 1);
      return [{ ...own, rows: branch.count, ...branch.aggregates }];
    });
  const columns = [...shown, { name: 'rows' }, ...aggregates];
  return csv(columns, rows(branches, {}, 0), terminal, options);
}
