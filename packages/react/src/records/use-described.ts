import { describeColumns, type Client } from '@ephoros/client';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { useCallback, useEffect, useState } from 'react';
import { warnings } from '../warnings.ts';

/** What a table and the columns that are named of it are, once that is known. */
export interface Described {
  readonly table: TableDescription | undefined;
  readonly columns: readonly ColumnDescription[];
  readonly error: Error | undefined;
  /** Asks again, after a failure. */
  readonly retry: () => void;
}

type Known = Omit<Described, 'retry'>;

const nothing: Known = { table: undefined, columns: [], error: undefined };

/** Describes a table; its shown columns where none are named. */
export function useDescribed(
  client: Pick<Client, 'describe'> | undefined,
  table: string | undefined,
  names: readonly string[] | undefined,
): Described {
  const [state, setState] = useState<{ readonly of: readonly unknown[]; readonly known: Known }>({
    of: [],
    known: nothing,
  });
  const [tries, setTries] = useState(0);
  const named = names?.join('\n');
  useEffect(() => {
    if (client === undefined || table === undefined) return undefined;
    const controller = new AbortController();
    const { signal } = controller;
    const describe = (one: string): Promise<TableDescription> => client.describe(one, signal);
    const setKnown = (known: Known): void => setState({ of: [client, table, named], known });
    const load = async (): Promise<void> => {
      const description = await describe(table);
      const wanted =
        named?.split('\n') ??
        description.columns.filter(({ shown }) => shown).map(({ name }) => name);
      const found = await describeColumns(wanted, description, describe);
      for (const [index, column] of found.entries()) {
        if (column === undefined) tellUnknown(wanted[index] ?? '', description);
      }
      const columns = found.filter((column) => column !== undefined);
      if (!signal.aborted) setKnown({ table: description, columns, error: undefined });
    };
    load().catch((thrown: unknown) => {
      if (signal.aborted) return;
      const error = thrown instanceof Error ? thrown : new Error(String(thrown));
      setKnown({ ...nothing, error });
    });
    return () => controller.abort();
  }, [client, table, named, tries]);
  // Of another table nothing is known yet.
  const { of, known: last } = state;
  const known = of[0] === client && of[1] === table && of[2] === named ? last : nothing;
  const retry = useCallback(() => setTries((before) => before + 1), []);
  return { ...known, retry };
}

function tellUnknown(name: string, { name: table, columns }: TableDescription): void {
  warnings.report(`${table} ${name}`, () => {
    const known = columns.map((column) => column.name).join(', ');
    return `${table} has no column ${name}, so that it is not shown. There are ${known}.`;
  });
}
