import type { CheckedColumn, CheckedQuery } from '@ephoros/core/check';
import { problem } from '@ephoros/core/problem';
import {
  compileCopy,
  labelsIn,
  type CopyForm,
  type CopyStatement,
  type Relations,
} from '@ephoros/core/sql';
import { exportFormats, type ExportWriter, type FileForm, type Sink } from '../export/index.ts';
import { countingOf } from '../positions/index.ts';
import { Refused } from '../question/index.ts';
import type { Engine } from './engine.ts';
import type { RequestContext } from './request-context.ts';

/** A file about to be written. */
export interface PlannedExport {
  readonly table: string;
  readonly mediaType: string;
  readonly format: FileForm['format'];
  /** Rows that it will have; undefined where nobody has counted them within a second. */
  readonly rows: number | undefined;
  /** The same as far as the planner can tell; undefined where `rows` are known, or nobody may be told. */
  readonly about: number | undefined;
  /** Writes it; gives the number of its rows. @throws Failure */
  readonly write: (sink: Sink) => Promise<number>;
}

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
  engine: Pick<Engine, 'positions' | 'exports' | 'mostExported'>,
  { catalog, signal }: RequestContext,
): Promise<PlannedExport> {
  const { positions, exports, mostExported } = engine;
  const { table, columns, offset, anchor } = query;
  const { format } = form;
  const { mediaType, most: ofFormat = mostExported, writer: writerOf } = exportFormats[format];
  const most = ofFormat === undefined ? undefined : Math.min(ofFormat, mostExported ?? Infinity);
  const total = await positions.total(countingOf(query, catalog.locate), 'exact', counting, signal);
  // Behind a cursor nobody knows how many there are.
  const left = anchor === undefined && total !== undefined ? total.rows - offset : undefined;
  const counted = left === undefined ? undefined : Math.min(Math.max(0, left), limit ?? Infinity);
  const rows = total?.kind === 'exact' ? counted : undefined;
  const about = rows === undefined && !catalog.ruled ? counted : undefined;
  if (most !== undefined && (rows ?? 0) > most) {
    throw new Refused([problem('export-too-long', { most, rows: rows ?? 0 })]);
  }
  // One more than may be tells that there are more.
  const bound = most === undefined ? limit : Math.min(most + 1, limit ?? Infinity);
  return {
    ...{ table: table.name, format, rows, about },
    mediaType,
    write: async (sink) => {
      const writer = writerOf(asWritten(columns, form), form, sink);
      const { copy, as } = copyFor(query, bound, writer, catalog.locate);
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
          if (most !== undefined && writer.rows > most) throw new TooLong(most);
        },
        // Of whatever tables: a file is asked for by hand.
        { signal },
      );
      await begin();
      await writer.end();
      return writer.rows;
    },
  };
}

/** The columns as they stand in the file: those with labels hold texts. */
function asWritten(columns: readonly CheckedColumn[], form: FileForm): readonly CheckedColumn[] {
  return columns.map((column) =>
    labelsIn(form, column) === undefined ? column : { ...column, type: { kind: 'text' } },
  );
}

/** What the database is to write, in the form that it can. */
function copyFor(
  query: CheckedQuery,
  limit: number | undefined,
  { form, otherwise = form }: Pick<ExportWriter, 'form' | 'otherwise'>,
  relations: Relations,
): { readonly copy: CopyStatement; readonly as: CopyForm['as'] } {
  for (const one of [form, otherwise]) {
    const copy = compileCopy(query, limit, one, relations);
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
