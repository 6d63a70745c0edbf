import type { CheckedColumn } from '@ephoros/core/check';
import { RecordEnds, type FileFormat } from '@ephoros/core/file';
import { harmlessText } from '@ephoros/core/schema';
import { rowEncoder } from '../encode/index.ts';
import { CsvLines } from './csv-lines.ts';
import { headerOf, type ExportWriter, type FileForm } from './file.ts';
import { htmlWriter, markdownWriter } from './read-tables.ts';
import type { Sink } from './sink.ts';
import { TextRows } from './text-rows.ts';

/** Rows of what people read, all of which a program that shows it has to hold. */
const mostRead = 10_000;

interface Format {
  readonly mediaType: string;
  /** Rows at most, whatever the configuration allows. */
  readonly most?: number;
  readonly writer: MakeWriter;
}

type MakeWriter = (
  columns: readonly CheckedColumn[],
  form: FileForm,
  sink: Sink,
) => ExportWriter | Promise<ExportWriter>;

// These two hold large libraries, which are loaded with the first file of theirs.
const workbook: MakeWriter = async (...file) =>
  (await import('./workbook.ts')).workbookWriter(...file);
const arrow: MakeWriter = async (...file) => (await import('./arrow.ts')).arrowWriter(...file);

/** What can be exported as what. */
export const exportFormats: Readonly<Record<FileFormat, Format>> = {
  csv: { mediaType: 'text/csv; charset=utf-8', writer: csvWriter },
  ndjson: {
    mediaType: 'application/x-ndjson; charset=utf-8',
    writer: (columns, form, sink) => jsonWriter(columns, form, sink, 'lines'),
  },
  json: {
    mediaType: 'application/json; charset=utf-8',
    writer: (columns, form, sink) => jsonWriter(columns, form, sink, 'array'),
  },
  xlsx: {
    mediaType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    writer: workbook,
  },
  arrow: { mediaType: 'application/vnd.apache.arrow.stream', writer: arrow },
  md: { mediaType: 'text/markdown; charset=utf-8', most: mostRead, writer: markdownWriter },
  html: { mediaType: 'text/html; charset=utf-8', most: mostRead, writer: htmlWriter },
};

const delimiters = { comma: ',', semicolon: ';', tab: '\t', bar: '|' } as const;
const nulls = { empty: '', null: 'NULL', 'backslash-n': '\\N' } as const;

function csvWriter(columns: readonly CheckedColumn[], form: FileForm, sink: Sink): ExportWriter {
  const { formulas, bom, 'line-end': lineEnd, 'value-labels': labelled } = form;
  const [delimiter, missing] = [delimiters[form.delimiter], nulls[form.missing]];
  const lines = new CsvLines(lineEnd === 'crlf');
  const field = (text: string): string => {
    const harmless = formulas ? text : harmlessText(text);
    const isPlain = !/["\r\n]/.test(harmless) && !harmless.includes(delimiter);
    return isPlain && harmless !== missing ? harmless : `"${harmless.replaceAll('"', '""')}"`;
  };
  return {
    form: { as: 'csv', delimiter, missing, formulas, labelled },
    get rows() {
      return lines.count;
    },
    begin: async () => {
      const names = headerOf(columns, form);
      const end = lineEnd === 'crlf' ? '\r\n' : '\n';
      const header = names === undefined ? '' : `${names.map(field).join(delimiter)}${end}`;
      await sink.write(`${bom ? '\uFEFF' : ''}${header}`);
    },
    take: (piece) => sink.write(lines.take(piece)),
    end: () => Promise.resolve(),
  };
}

/** Rows that the database writes as JSON, a line each; else they are written here. */
function jsonWriter(
  columns: readonly CheckedColumn[],
  { 'value-labels': labelled }: FileForm,
  sink: Sink,
  as: 'lines' | 'array',
): ExportWriter {
  const records = new RecordEnds('lines');
  const text = new TextRows();
  const encode = rowEncoder(columns);
  // What is JSON in the database may stand on several lines: between its parts alone, and never within texts.
  const lineOf = (row: Parameters<typeof encode>[0]): string =>
    `${encode(row).replaceAll(/[\r\n]/g, ' ')}\n`;
  /** The end of the last line, held back until it is sure whether anything follows. */
  let held = '';
  const parted = (lines: Buffer): Buffer => {
    // Byte by byte a character: what is looked for is ASCII.
    const body = lines.toString('latin1').replaceAll('\n', ',\n');
    const whole = held + body;
    held = whole.endsWith(',\n') ? ',\n' : '';
    return Buffer.from(held === '' ? whole : whole.slice(0, -held.length), 'latin1');
  };
  return {
    form: { as: 'json', labelled },
    otherwise: { as: 'text', labelled },
    get rows() {
      return records.count;
    },
    begin: () => (as === 'lines' ? Promise.resolve() : sink.write('[\n')),
    take: async (piece, form) => {
      const lines = form === 'json' ? piece : Buffer.from(text.take(piece).map(lineOf).join(''));
      records.take(lines);
      await sink.write(as === 'lines' ? lines : parted(lines));
    },
    end: () => (as === 'lines' ? Promise.resolve() : sink.write('\n]\n')),
  };
}
