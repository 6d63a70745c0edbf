import { catalogOf, keyOfRow, selectedKeys, type Row } from '@ephoros/client';
import { toOne, type Relationship, type TableDescription, type Tables } from '@ephoros/core/schema';
import type { RequestClient } from '../records/request-client.ts';

/** A row with all its columns, and with what names and distinguishes the rows that it refers to. */
export interface ReadRow {
  readonly table: TableDescription;
  /** Undefined where there is no such row, or none any more. */
  readonly row: Row | undefined;
  /** The tables that it refers to. */
  readonly others: Tables;
}

const span = { start: 0, end: 0 };

/** Reads a row by its key, as its address has it. Rejects as the client does. */
export async function readRow(
  client: RequestClient,
  name: string,
  key: string,
  signal: AbortSignal,
): Promise<ReadRow> {
  const catalog = catalogOf(client);
  await catalog.around(name, 1);
  const table = await catalog.describe(name);
  const related = toOne(table).flatMap((step) => {
    const { key: parts = [], label } = catalog.known(step.table) ?? {};
    const messages = label === undefined ? parts : [...parts, label];
    return messages.map((one) => `${step.name}.${one}`);
  });
  const names = [...new Set([...table.columns.map((column) => column.name), ...related])];
  const query = {
    columns: names.map((one) => ({ name: one, span })),
    filter: selectedKeys([key]),
    limit: 1,
    total: 'none' as const,
  };
  const { rows } = await client.rows(name, query, signal);
  return { table, row: rows[0], others: catalog.known };
}

/** The row that a row refers to: its key as its address has it; undefined where it refers to none. */
export function referredKey(
  { name, table }: Relationship,
  row: Row,
  others: Tables,
): string | undefined {
  const key = others(table)?.key ?? [];
  return keyOfRow(
    row,
    key.map((one) => `${name}.${one}`),
  );
}
