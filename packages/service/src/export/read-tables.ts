import type { CheckedColumn } from '@ephoros/core/check';
import type { ColumnType } from '@ephoros/core/schema';
import { headerOf, type ExportWriter, type FileForm } from './file.ts';
import type { Sink } from './sink.ts';
import { TextRows } from './text-rows.ts';

/** Tables for people to read: their rows as the lines of Markdown (GitHub Flavored, tables) or of HTML. */
interface FileStyle {
  readonly begin: (header: readonly string[], aligned: readonly ('start' | 'end')[]) => string;
  readonly line: (cells: readonly string[]) => string;
  readonly end: string;
}

/** As Markdown: what would be its signs is escaped, a line break is a space. */
export function markdownWriter(
  columns: readonly CheckedColumn[],
  form: FileForm,
  sink: Sink,
): ExportWriter {
  const line = (cells: readonly string[]): string => `| ${cells.map(plain).join(' | ')} |\n`;
  const begin: FileStyle['begin'] = (header, aligned) => {
    const rules = aligned.map((one) => (one === 'end' ? '--:' : ':--'));
    return `${line(header)}| ${rules.join(' | ')} |\n`;
  };
  return styledWriter(columns, form, sink, { begin, line, end: '' });
}

function plain(text: string): string {
  return text
    .replaceAll(/[\\`*_[\]|<>&~]/g, '\\$&')
    .replaceAll(/\s+/g, ' ')
    .trim();
}

/** As a page of HTML that needs nothing else, and runs nothing. */
export function htmlWriter(
  columns: readonly CheckedColumn[],
  form: FileForm,
  sink: Sink,
): ExportWriter {
  const ends = columns.map(({ type }) => alignOf(type) === 'end');
  const cell = (tag: string) => (text: string, index: number) =>
    `<${tag}${ends[index] === true ? ' class="end"' : ''} dir="auto">${escaped(text)}</${tag}>`;
  return styledWriter(columns, form, sink, {
    begin: (header) =>
      `${pageHead}<table>\n<thead><tr>${header.map(cell('th')).join('')}</tr></thead>\n<tbody>\n`,
    line: (cells) => `<tr>${cells.map(cell('td')).join('')}</tr>\n`,
    end: '</tbody>\n</table>\n',
  });
}

const pageHead = `<!doctype html>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<style>
body { font: 14px/1.5 sans-serif; margin: 2rem; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
th, td { padding: 0.2rem 0.8rem; border-bottom: 1px solid #ccc; text-align: start; vertical-align: top; white-space: pre-wrap; }
.end { text-align: end; white-space: nowrap; }
thead { display: table-header-group; }
tr { break-inside: avoid; }
</style>
`;

function escaped(text: string): string {
  return text.replaceAll(/[&<>"']/g, (sign) => `&#${sign.charCodeAt(0)};`);
}

function styledWriter(
  columns: readonly CheckedColumn[],
  form: FileForm,
  sink: Sink,
  appearance: FileStyle,
): ExportWriter {
  const text = new TextRows();
  let rows = 0;
  return {
    form: { as: 'text', labelled: form['value-labels'] },
    get rows() {
      return rows;
    },
    begin: async () => {
      const header = headerOf(columns, form) ?? columns.map(() => '');
      await sink.write(
        appearance.begin(
          header,
          columns.map(({ type }) => alignOf(type)),
        ),
      );
    },
    take: async (piece) => {
      const lines = text
        .take(piece)
        .map((row) =>
          appearance.line(row.map((value, index) => readable(value, columns[index]?.type))),
        );
      rows += lines.length;
      await sink.write(lines.join(''));
    },
    end: () => (appearance.end === '' ? Promise.resolve() : sink.write(appearance.end)),
  };
}

function alignOf({ kind }: ColumnType): 'start' | 'end' {
  return kind === 'integer' || kind === 'numeric' || kind === 'float' ? 'end' : 'start';
}

/** Null is nothing; truth in words, and bytes in Base64, as they are in CSV. */
function readable(value: string | null, type: ColumnType | undefined): string {
  if (value === null) return '';
  if (type?.kind === 'boolean') return value === 't' ? 'true' : 'false';
  if (type?.kind === 'binary') return Buffer.from(value.slice(2), 'hex').toString('base64');
  return value;
}
