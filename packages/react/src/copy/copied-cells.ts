import type { Row, Value } from '@ephoros/client';
import { harmlessText, isNumeric, type ColumnDescription } from '@ephoros/core/schema';
import { dateFormat } from '../format/formatters.ts';
import { formatText, plainText, type FullReader } from '../format/value.ts';

/** Cells as a clipboard holds them. */
export interface CopiedCells {
  /** Lines of cells with tabs between them, as spreadsheets read them. */
  readonly text: string;
  readonly html: string;
}

/**
 * Cells of rows for a spreadsheet: numbers as they are, moments on the reader's clock, all else as
 * it is read; a missing value is an empty cell, and no text is taken for a formula.
 */
export function copiedCells(
  rows: readonly Row[],
  columns: readonly ColumnDescription[],
  reader: FullReader,
  headers: boolean,
): CopiedCells {
  const cells = rows.map((row) =>
    columns.map((column) => cellText(row[column.name] ?? null, column, reader)),
  );
  const head = headers ? [columns.map(({ label }) => harmlessText(label))] : [];
  const lines = [...head, ...cells];
  const body = (one: readonly (readonly string[])[], tag: string): string =>
    one
      .map((line) => `<tr>${line.map((cell) => `<${tag}>${escaped(cell)}</${tag}>`).join('')}</tr>`)
      .join('');
  return {
    text: lines.map((line) => line.map(field).join('\t')).join('\n'),
    html: `<table>${body(head, 'th')}${body(cells, 'td')}</table>`,
  };
}

function cellText(value: Value, column: ColumnDescription, reader: FullReader): string {
  if (value === null) return '';
  const { type, valueLabels } = column;
  if (valueLabels === undefined && isNumeric(type)) return plainText(value);
  if (type.kind === 'date') return plainText(value);
  if (type.kind === 'timestamp') return momentText(plainText(value), type.zone, reader);
  if (value === '') return '';
  if (typeof value === 'object') return harmlessText(plainText(value));
  return harmlessText(formatText(value, column, reader));
}

/** "2026-08-23 14:34:00", as every spreadsheet takes it; what is no moment stays as it is. */
function momentText(text: string, zoned: boolean, { timeZone }: FullReader): string {
  const moment = new Date(zoned ? text : `${text}Z`);
  if (Number.isNaN(moment.getTime())) return text;
  const parts = dateFormat('en-u-ca-iso8601-nu-latn', {
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
    hourCycle: 'h23',
    timeZone: zoned ? timeZone : 'UTC',
  }).formatToParts(moment);
  const of = (type: string): string => parts.find((part) => part.type === type)?.value ?? '';
  return `${of('year')}-${of('month')}-${of('day')} ${of('hour')}:${of('minute')}:${of('second')}`;
}

/** What has tabs, quotes or ends of lines in it stands in quotes. */
function field(text: string): string {
  return /[\t\n\r"]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

function escaped(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('\n', '<br>');
}
