import type { CheckedColumn } from '@ephoros/core/check';
import { harmlessText } from '@ephoros/core/schema';
import { rowEncoder } from '../encode/index.ts';
import { CsvLines } from './csv-lines.ts';
import { headerOf, type ExportFormat, type ExportOptions, type ExportWriter } from './file.ts';
import type { Sink } from './sink.ts';
import { TextRows } from './text-rows.ts';
import { workbookWriter } from './workbook.ts';

interface Format {
  readonly mediaType: string;
  readonly writer: (
    columns: readonly CheckedColumn[],
    options: ExportOptions,
    sink: Sink,
  ) => ExportWriter;
}

/** What can be exported as what. */
export const exportFormats: Readonly<Record<ExportFormat, Format>> = {
  csv: { mediaType: 'text/csv; charset=utf-8', writer: csvWriter },
  ndjson: {
    mediaType: 'application/x-ndjson; charset=utf-8',
    writer: (columns, _options, sink) => jsonWriter(columns, sink, 'lines'),
  },
  json: {
    mediaType: 'application/json; charset=utf-8',
    writer: (columns, _options, sink) => jsonWriter(columns, sink, 'array'),
  },
  xlsx: {
    mediaType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    writer: workbookWriter,
  },
};

function csvWriter(
  columns: readonly CheckedColumn[],
  options: ExportOptions,
  sink: Sink,
): ExportWriter {
  const { delimiter, missing, formulas, bom, lineEnd } = options;
  const lines = new CsvLines(lineEnd === 'crlf');
  const field = (text: string): string => {
    const harmless = formulas ? text : harmlessText(text);
    const isPlain = !/["\r\n]/.test(harmless) && !harmless.includes(delimiter);
    return isPlain && harmless !== missing ? harmless : `"${harmless.replaceAll('"', '""')}"`;
  };
  return {
    form: { as: 'csv', delimiter, missing, formulas },
    get rows() {
      return lines.count;
    },
    begin: async () => {
      const names = headerOf(columns, options);
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
  sink: Sink,
  as: 'lines' | 'array',
): ExportWriter {
  let rows = 0;
  /** What was held back: whether anything follows the last line. */
  let held = '';
  const put = async (written: string): Promise<void> => {
    if (as === 'lines' || written === '') return sink.write(Buffer.from(written, 'latin1'));
    const body = written.replaceAll('\n', ',\n');
    const ends = body.endsWith(',\n');
    const whole = held + (ends ? body.slice(0, -2) : body);
    held = ends ? ',\n' : '';
    return sink.write(Buffer.from(whole, 'latin1'));
  };
  const text = new TextRows();
  const encode = rowEncoder(columns);
  return {
    form: { as: 'json' },
    otherwise: { as: 'text' },
    get rows() {
      return rows;
    },
    begin: () => (as === 'lines' ? Promise.resolve() : sink.write('[\n')),
    take: async (piece, form) => {
      // Byte by byte a character: what is looked for is ASCII.
      const lines =
        form === 'json'
          ? piece.toString('latin1')
          : Buffer.from(
              text
                .take(piece)
                .map((row) => `${encode(row)}\n`)
                .join(''),
            ).toString('latin1');
      for (let at = lines.indexOf('\n'); at !== -1; at = lines.indexOf('\n', at + 1)) rows += 1;
      await put(lines);
    },
    end: () => (as === 'lines' ? Promise.resolve() : sink.write('\n]\n')),
  };
}
