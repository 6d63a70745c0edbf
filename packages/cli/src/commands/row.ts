import { keyOfRow, selectedKeys, type Row, type RowsAnswer } from '@ephoros/client';
import { printExpression } from '@ephoros/core/expression';
import {
  columnsToChoose,
  parseKey,
  printKey,
  sectionsOf,
  type ColumnDescription,
  type Section,
  type SectionKind,
  type TableDescription,
} from '@ephoros/core/schema';
import { Command } from 'commander';
import { namedColumns } from '../named-columns.ts';
import { plainJson } from '../output/plain.ts';
import { drawSheet, type SheetLine } from '../output/sheet.ts';
import { sendRequest } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption } from './options.ts';

interface Options {
  readonly url: string;
  readonly header: Readonly<Record<string, string>>;
  readonly differences?: boolean;
  readonly json?: boolean;
}

const titles: Readonly<Record<SectionKind, string>> = {
  itself: 'The row',
  references: 'Refers to',
  amounts: 'Amounts',
  times: 'Times',
  more: 'Further',
};

/** `ephoros row TABLE KEY…` */
export function rowCommand(terminal: Terminal): Command {
  return new Command('row')
    .description('show single rows, one column per row')
    .argument('<table>', 'a published table')
    .argument('<key...>', 'keys, as in row URLs: 17, or with several parts: 17,up')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--differences', 'show only columns that differ')
    .option('--json', 'print JSON, in the order of the keys')
    .addHelpText(
      'after',
      `
Examples:
  ephoros row passages 17
  ephoros row locks 35 36 37 --differences
  ephoros row boats 12 --json`,
    )
    .action(async (table: string, keys: string[], { url, header, differences, json }: Options) => {
      const description = await clientFor({ url, header }).describe(table);
      const columns = columnsToChoose(description).map(({ name }) => name);
      const read = await sendRequest({ url, header, terminal }, table, 'rows', {
        columns: namedColumns([...new Set([...columns, ...description.key])]),
        filter: printExpression(selectedKeys([...new Set(keys)])),
        limit: String(keys.length),
        total: 'none',
      });
      if (json === true) {
        terminal.stdout.write(`${plainJson(read.text)}\n`);
        return;
      }
      const { rows } = read.answer as RowsAnswer;
      const found = keys.map((key) => rowOf(key, rows, description));
      const there = found.filter((row) => row !== undefined);
      const gone = keys.filter((_, index) => found[index] === undefined);
      if (there.length > 0) {
        const lines = linesOf(description, there, differences === true);
        terminal.stdout.write(drawSheet(lines, terminal));
      }
      if (gone.length > 0) {
        terminal.stderr.write(`No row has the key ${gone.join(', ')} (any more).\n`);
        throw new MissingRowError();
      }
    });
}

/** Some of the rows that were requested are not there; that was reported already. */
class MissingRowError extends Error {
  readonly exitCode = 3;
}

/** A row by its key, however that was spelled. */
function rowOf(
  key: string,
  rows: readonly Row[],
  { key: names }: TableDescription,
): Row | undefined {
  const parts = parseKey(key);
  const spelled = parts && printKey(parts);
  return rows.find((row) => keyOfRow(row, names) === spelled);
}

function linesOf(
  table: TableDescription,
  rows: readonly Row[],
  differences: boolean,
): readonly SheetLine[] {
  return sectionsOf(table).flatMap((section): readonly SheetLine[] => {
    const fields = section.columns
      .map((column) => ({ label: column.label, ...valuesOf(column, table, rows) }))
      .filter(({ differ }) => !differences || differ);
    return fields.length === 0 ? [] : [{ title: titleOf(section) }, ...fields];
  });
}

function titleOf(section: Section): string {
  return 'kind' in section ? titles[section.kind] : section.title;
}

/** What a column has in each row: of a reference the name of the other row, and its number. */
function valuesOf(
  { name, shownAs }: ColumnDescription,
  { related = [] }: TableDescription,
  rows: readonly Row[],
): { readonly values: readonly string[]; readonly differ: boolean } {
  const named = related.some((one) => one.name === shownAs) ? shownAs : undefined;
  const values = rows.map((row) => {
    const own = textOf(row[name] ?? null);
    const called = named === undefined ? null : (row[named] ?? null);
    return called === null ? own : `${textOf(called)} (${own})`;
  });
  return { values, differ: new Set(values).size > 1 };
}

function textOf(value: Row[string]): string {
  if (value === null) return '∅';
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}
