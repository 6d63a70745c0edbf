import { setImmediate } from 'node:timers/promises';
import type { CheckedColumn } from '@ephoros/core/check';
import {
  AsyncByteQueue,
  Field,
  makeData,
  RecordBatch,
  RecordBatchStreamWriter,
  Schema,
  Struct,
} from 'apache-arrow';
import { arrowColumn } from './arrow-columns.ts';
import type { ExportWriter, FileForm } from './file.ts';
import type { Sink } from './sink.ts';
import { TextRows } from './text-rows.ts';

/** Rows of a batch at most, which are made at one go, and bytes after which it has no more. */
const batchRows = 2_048;
const batchBytes = 16 * 2 ** 20;

/** What has been written and not sent. */
class Written extends AsyncByteQueue {
  private pieces: Uint8Array[] = [];

  override write(piece: Uint8Array): number {
    this.pieces.push(piece);
    return piece.byteLength;
  }

  taken(): Uint8Array[] {
    const { pieces } = this;
    this.pieces = [];
    return pieces;
  }
}

/** Writes a stream of Arrow IPC: batches of rows, column by column, in the types that hold their values. */
export function arrowWriter(
  columns: readonly CheckedColumn[],
  { 'value-labels': labelled }: FileForm,
  sink: Sink,
): ExportWriter {
  const text = new TextRows();
  const made = columns.map(({ name, type }) => ({ name, ...arrowColumn(type) }));
  const fields = made.map(({ name, type }) => new Field(name, type, true));
  const schema = new Schema(fields);
  const struct = new Struct(fields);
  const written = new Written();
  const writer = new RecordBatchStreamWriter();
  let rows = 0;
  let waiting: ReturnType<TextRows['take']> = [];
  let bytes = 0;
  const send = async (): Promise<void> => {
    for (const { buffer, byteOffset, byteLength } of written.taken()) {
      await sink.write(Buffer.from(buffer, byteOffset, byteLength));
    }
  };
  const batch = async (): Promise<void> => {
    const children = made.map(({ build }, index) =>
      build(waiting.map((row) => row[index] ?? null)),
    );
    const { length } = waiting;
    writer.write(
      new RecordBatch(schema, makeData({ type: struct, length, nullCount: 0, children })),
    );
    waiting = [];
    bytes = 0;
    await send();
    // Others are answered in between.
    await setImmediate();
  };
  return {
    form: { as: 'text', labelled },
    get rows() {
      return rows;
    },
    begin: async () => {
      writer.reset(written, schema);
      await send();
    },
    take: async (piece) => {
      bytes += piece.length;
      for (const row of text.take(piece)) {
        waiting.push(row);
        rows += 1;
        if (waiting.length === batchRows || bytes > batchBytes) await batch();
      }
    },
    end: async () => {
      if (waiting.length > 0) await batch();
      writer.finish();
      await send();
    },
  };
}
