import type { WrittenQuery } from '@ephoros/client';
import type { FileParameters, FilesClient } from '@ephoros/client/files';
import { useCallback } from 'react';
import { useAnswer, type Answer } from '../use-answer.ts';
import { bytesOf } from './exported-file.ts';

/** Rows that a size is measured by. */
const measured = 200;
/** Ms after which nobody waits for a size any more: a file can be written without it. */
const waitLimit = 5_000;

/** A file that is planned. */
export interface PlannedFile {
  readonly query: WrittenQuery;
  readonly form: FileParameters;
}

/** Bytes of so many rows. */
export type SizeOf = (rows: number) => number;

/** How large a file will be, by its first rows. */
export function useFileSize(
  files: FilesClient,
  table: string,
  planned: PlannedFile | undefined,
): Answer<SizeOf> {
  const measure = useCallback(
    async (given: AbortSignal): Promise<SizeOf> => {
      const { query, form } = planned ?? { query: {}, form: { format: 'csv' } };
      const signal = AbortSignal.any([given, AbortSignal.timeout(waitLimit)]);
      const first = Math.min(measured, query.limit ?? measured);
      const sized = async (limit: number): Promise<{ bytes: number; rows: number }> => {
        const file = await files.open(table, { ...query, limit }, form, signal);
        return { bytes: await bytesOf(file), rows: file.rows ?? limit };
      };
      // One after the other: files have few connections.
      const one = await sized(1);
      const some = first > 1 ? await sized(first) : one;
      const each = (some.bytes - one.bytes) / Math.max(1, some.rows - one.rows);
      return (rows) => Math.max(one.bytes, one.bytes + each * (rows - one.rows));
    },
    [files, table, planned],
  );
  return useAnswer(planned === undefined ? undefined : measure);
}
