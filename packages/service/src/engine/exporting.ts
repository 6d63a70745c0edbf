import type { CheckedColumn, CheckedGroupLines, CheckedQuery } from '@ephoros/core/check';
import { problem } from '@ephoros/core/problem';
import {
  compileCopy,
  compileGroupCopy,
  labelsIn,
  type CopyForm,
  type CopyStatement,
} from '@ephoros/core/sql';
import { exportFormats, type ExportWriter, type FileForm, type Sink } from '../export/index.ts';
import { countingOf } from '../positions/index.ts';
import { Refused } from '../query/index.ts';
import type { Engine } from './engine.ts';
import type { RequestContext } from './request-context.ts';

/** A file about to be written. */
export interface PlannedExport {
  readonly table: string;
  readonly mediaType: string;
  readonly format: FileForm['format'];
  /** Rows that it will have; undefined where nobody has counted them within a second. */
  readonly rows: number | undefined;
  /** The same as far as the planner can tell; undefined where `rows` are known, or where it must not be known. */
  readonly about: number | undefined;
  /** Writes it; gives the number of its rows, of which `told` hears on the way. @throws Failure */
  readonly write: (sink: Sink, notify?: (rows: number) => void) => Promise<number>;
}

/** What files are planned by. */
type Exporting = Pick<Engine, 'positions' | 'exports' | 'mostExported'>;

/** Ms that an export waits for the number of its rows to be known. */
const counting = 1_000;

/**
 * The rows of a query as a file, all of one snapshot.
 * @param limit rows at most; all where it is undefined
 * @throws Refused where more rows match than may be exported
 */
export async function planExport(
  query: CheckedQuery,
  limit: number | undefined,
  form: FileForm,
  engine: Exporting,
  context: RequestContext,
): Promise<PlannedExport> {
  const { catalog, signal } = context;
  const { table, columns, offset, anchor } = query;
  const wanted = countingOf(query, catalog.locate);
  const total = await engine.positions.total(wanted, 'exact', counting, signal);
  // Behind a cursor nobody knows how many there are.
  const left = anchor === undefined && total !== undefined ? total.rows - offset : undefined;
  const counted = left === undefined ? undefined : Math.min(Math.max(0, left), limit ?? Infinity);
  const rows = total?.kind === 'exact' ? counted : undefined;
  const about = rows === undefined && !catalog.ruled ? counted : undefined;
  const compile: Compile = (one, bound) => compileCopy(query, bound, one, catalog.locate);
  return planned({ table, columns, compile, rows, about }, limit, form, engine, context);
}

/** All groups of a grouping as a file, a line each; how many there are is known when it is written. */
export function planGroupExport(
  lines: CheckedGroupLines,
  limit: number | undefined,
  form: FileForm,
  engine: Exporting,
  context: RequestContext,
): PlannedExport {
  const { table, columns } = lines;
  const { locate } = context.catalog;
  const compile: Compile = (one, bound) => compileGroupCopy(lines, bound, one, locate);
  const depth = lines.levels.length - 1;
  return planned({ table, columns, compile }, limit, { ...form, depth }, engine, context);
}

/** Groups with their values by the names of their columns, as answers have them. */
export interface GroupTable {
  readonly columns: readonly CheckedColumn[];
  readonly rows: readonly Readonly<Record<string, unknown>>[];
}

/** So many groups of a grouping at most, in memory. @throws Failure */
export async function groupTable(
  lines: CheckedGroupLines,
  limit: number,
  { positions, exports }: Pick<Exporting, 'positions' | 'exports'>,
  context: RequestContext,
): Promise<GroupTable> {
  const pieces: Buffer[] = [];
  // It is no file: what bounds these is not requested.
  const pool = { positions, exports, mostExported: undefined };
  const planned = planGroupExport(lines, limit, asObjects, pool, context);
  await planned.write({
    write: (piece) => {
      pieces.push(Buffer.from(piece));
      return Promise.resolve();
    },
  });
  const text = Buffer.concat(pieces).toString('utf8');
  const rows = text.split('\n').filter((line) => line !== '');
  return {
    columns: lines.columns,
    rows: rows.map((line) => JSON.parse(line) as Record<string, unknown>),
  };
}

const asObjects: FileForm = {
  format: 'ndjson',
  header: 'names',
  delimiter: 'comma',
  missing: 'empty',
  'line-end': 'lf',
  bom: false,
  formulas: false,
  'value-labels': false,
  levels: 'columns',
};

/** The statement of a form with so many rows at most; undefined where the database cannot write it. */
type Compile = (form: CopyForm, most: number | undefined) => CopyStatement | undefined;

interface Written {
  readonly table: { readonly name: string };
  readonly columns: readonly CheckedColumn[];
  readonly compile: Compile;
  readonly rows?: number | undefined;
  readonly about?: number | undefined;
}

/** @throws Refused */
function planned(
  { table, columns, compile, rows, about }: Written,
  limit: number | undefined,
  form: FileForm,
  { exports, mostExported }: Exporting,
  { signal, tally }: RequestContext,
): PlannedExport {
  const { format } = form;
  const { mediaType, most: ofFormat = mostExported, writer: writerOf } = exportFormats[format];
  const most = ofFormat === undefined ? undefined : Math.min(ofFormat, mostExported ?? Infinity);
  if (most !== undefined && (rows ?? 0) > most) {
    throw new Refused([problem('export-too-long', { most, rows: rows ?? 0 })]);
  }
  // One more than may be shows that there are more.
  const bound = most === undefined ? limit : Math.min(most + 1, limit ?? Infinity);
  return {
    ...{ table: table.name, format, rows, about, mediaType },
    write: async (sink, notify) => {
      const writer = await writerOf(asWritten(columns, form), form, sink);
      const { copy, as } = copyFor(compile, bound, writer);
      let begun = false;
      const begin = async (): Promise<void> => {
        if (!begun) await writer.begin();
        begun = true;
      };
      await exports.copy(
        copy,
        async (piece) => {
          await begin();
          await writer.take(piece, as);
          notify?.(writer.rows);
          if (most !== undefined && writer.rows > most) throw new TooLong(most);
        },
        // Of whatever tables: a file is requested by hand.
        { signal },
      );
      await begin();
      await writer.end();
      tally.gave(writer.rows);
      return writer.rows;
    },
  };
}

/** The columns as they stand in the file: those with labels hold texts. */
function asWritten(columns: readonly CheckedColumn[], form: FileForm): readonly CheckedColumn[] {
  return columns.map((column) =>
    labelsIn({ labelled: form['value-labels'] }, column) === undefined
      ? column
      : { ...column, type: { kind: 'text' }, encoding: 'string' },
  );
}

/** What the database is to write, in the form that it can. */
function copyFor(
  compile: Compile,
  most: number | undefined,
  { form, otherwise = form }: Pick<ExportWriter, 'form' | 'otherwise'>,
): { readonly copy: CopyStatement; readonly as: CopyForm['as'] } {
  for (const one of [form, otherwise]) {
    const copy = compile(one, most);
    if (copy !== undefined) return { copy, as: one.as };
  }
  throw new Error(`no rows as ${otherwise.as}`);
}

/** More rows came than may be exported, and nobody knew it before. */
class TooLong extends Error {
  override name = 'TooLong';

  constructor(most: number) {
    super(`more than ${most} rows`);
  }
}
