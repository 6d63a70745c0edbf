import { PassThrough } from 'node:stream';
import { setImmediate } from 'node:timers/promises';
import type { CheckedColumn } from '@ephoros/core/check';
import type { ColumnType } from '@ephoros/core/schema';
import Excel from 'exceljs';
import type { Sink } from './sink.ts';
import { TextRows } from './text-rows.ts';
import { headerOf, type ExportWriter, type FileForm } from './file.ts';

/** Rows of a sheet at most, with its header: more the format cannot hold (ISO/IEC 29500). */
const mostSheetRows = 1_048_576;
/** Characters of a cell at most, and what ends a text that had more. */
const mostCharacters = 32_767;
const cutOff = '…';
/** Digits that a number of the format keeps. */
const exactDigits = 15;

/** The format's usual font, which a program would otherwise choose again. */
const bold = { name: 'Calibri', family: 2, size: 11, bold: true };

type Cell = string | number | boolean | Date | null;

interface CellKind {
  readonly width: number;
  readonly format?: string;
  readonly read: (text: string) => Cell;
}

/**
 * Writes a workbook (Office Open XML): cells of their type where the format can hold the value exactly, texts
 * otherwise; the header stays in view and filters. More rows than a sheet can hold go on in the next one.
 */
export function workbookWriter(
  columns: readonly CheckedColumn[],
  form: FileForm,
  sink: Sink,
): ExportWriter {
  const text = new TextRows();
  const kinds = columns.map(({ type }) => kindOf(type));
  const stream = new PassThrough({ highWaterMark: 1024 * 1024 });
  const book = new Excel.stream.xlsx.WorkbookWriter({
    stream,
    useStyles: true,
    useSharedStrings: false,
  });
  const sent = (async () => {
    for await (const piece of stream) await sink.write(piece as Buffer);
  })();
  // What breaks on the way is reported at the end.
  sent.catch(() => undefined);
  const header = headerOf(columns, form);
  let sheet: Excel.Worksheet | undefined;
  let within = 0;
  let rows = 0;
  const finish = (): void => {
    if (sheet === undefined) return;
    if (header !== undefined && columns.length > 0) {
      sheet.autoFilter = {
        from: { row: 1, column: 1 },
        to: { row: within, column: columns.length },
      };
    }
    sheet.commit();
  };
  const open = (): Excel.Worksheet => {
    finish();
    const views: Partial<Excel.WorksheetView>[] =
      header === undefined ? [] : [{ state: 'frozen', ySplit: 1 }];
    sheet = book.addWorksheet(`Rows ${Math.floor(rows / (mostSheetRows - 1)) + 1}`, {
      views,
      // What lies in a group is folded below its line.
      ...(form.levels === 'folded' && {
        properties: {
          outlineLevelRow: form.depth ?? 0,
          outlineProperties: { summaryBelow: false, summaryRight: false },
        },
      }),
    });
    sheet.columns = columns.map((_column, index) => {
      const { width = 10, format } = kinds[index] ?? {};
      const named = header?.[index]?.length ?? 0;
      const wide = Math.min(60, Math.max(width, named + 4));
      return { width: wide, style: format === undefined ? {} : { numFmt: format } };
    });
    within = 0;
    if (header !== undefined) {
      const line = sheet.addRow(header.map(shortened));
      line.font = bold;
      line.commit();
      within = 1;
    }
    return sheet;
  };
  return {
    form: { as: 'text', labelled: form['value-labels'] },
    get rows() {
      return rows;
    },
    begin: async () => {
      open();
      await setImmediate();
    },
    take: async (piece) => {
      for (const row of text.take(piece)) {
        const into = sheet === undefined || within === mostSheetRows ? open() : sheet;
        const cells = row
          .slice(0, columns.length)
          .map((value, index) => (value === null ? null : (kinds[index]?.read(value) ?? null)));
        const line = into.addRow(cells);
        if (form.levels === 'folded') {
          const depth = Number(row[columns.length] ?? 0);
          line.outlineLevel = depth;
          if (depth < (form.depth ?? 0)) line.font = bold;
        }
        line.commit();
        within += 1;
        rows += 1;
      }
      // The packing goes on while nothing is added, and no further than it can be sent.
      do await setImmediate();
      while (!stream.destroyed && (stream.writableNeedDrain || isPacking(sheet)));
    },
    end: async () => {
      finish();
      await book.commit();
      await sent;
    },
  };
}

/** Of an older kind of stream, which reports it nowhere else. */
interface Packing {
  readonly _writableState?: { readonly needDrain?: boolean };
}

/** Whether what was added to a sheet still waits to be packed: the writer itself holds nobody up. */
function isPacking(sheet: Excel.Worksheet | undefined): boolean {
  const { stream } = (sheet ?? {}) as { readonly stream?: { readonly pipes?: readonly Packing[] } };
  return stream?.pipes?.some(({ _writableState: state }) => state?.needDrain === true) ?? false;
}

function shortened(text: string): string {
  return text.length > mostCharacters ? text.slice(0, mostCharacters - 1) + cutOff : text;
}

const asText: CellKind = { width: 24, read: shortened };

function kindOf(type: ColumnType): CellKind {
  switch (type.kind) {
    case 'integer':
      return { width: 12, read: exactNumber };
    case 'numeric': {
      const { scale } = type;
      return {
        width: 14,
        ...(scale === undefined || scale <= 0
          ? {}
          : { format: `0.${'0'.repeat(Math.min(20, scale))}` }),
        read: exactNumber,
      };
    }
    case 'float':
      return { width: 14, read: (text) => (Number.isFinite(Number(text)) ? Number(text) : text) };
    case 'boolean':
      return { width: 8, read: (text) => text === 't' };
    case 'date':
      return { width: 12, format: 'yyyy-mm-dd', read: exactDate };
    case 'timestamp':
      return { width: 21, format: 'yyyy-mm-dd hh:mm:ss', read: exactMoment };
    default:
      return asText;
  }
}

/** A number, if a float of 15 digits is that very number. */
function exactNumber(text: string): Cell {
  const digits = text.replace(/^[+-]?0*/, '').replace('.', '');
  const isExact = /^-?\d+(?:\.\d+)?$/.test(text) && digits.length <= exactDigits;
  return isExact ? Number(text) : text;
}

/** The first day that the format counts without errors: it takes 1900 for a leap year. */
const firstDay = Date.UTC(1900, 2, 1);
const lastDay = Date.UTC(9999, 11, 31, 23, 59, 59);

function exactDate(text: string): Cell {
  return /^\d{4}-\d\d-\d\d$/.test(text) ? momentAt(Date.parse(`${text}T00:00:00Z`), text) : text;
}

/** In UTC, to the millisecond: what has more digits stays a text. */
function exactMoment(text: string): Cell {
  const parts = /^(\d{4}-\d\d-\d\d) (\d\d:\d\d:\d\d(?:\.\d{1,3})?)(?:\+00)?$/.exec(text);
  return parts === null ? text : momentAt(Date.parse(`${parts[1]}T${parts[2]}Z`), text);
}

function momentAt(at: number, text: string): Cell {
  return at >= firstDay && at <= lastDay ? new Date(at) : text;
}
