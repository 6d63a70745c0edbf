import { catalogOf, type Client } from '@ephoros/client';
import { toldApart, type ColumnDescription, type TableDescription } from '@ephoros/core/schema';
import { useCallback, useEffect, useState } from 'react';
import { warnings } from '../warnings.ts';

/** What a table and columns of it are, once that is known. */
export interface Described {
  readonly table: TableDescription | undefined;
  /** The columns that are shown, in their order. */
  readonly columns: readonly ColumnDescription[];
  /** A column by its name, also a related one; undefined where there is none, or not yet. */
  readonly column: (name: string) => ColumnDescription | undefined;
  readonly error: Error | undefined;
  /** Asks again, after a failure. */
  readonly retry: () => void;
}

type Known = Omit<Described, 'retry'>;

const nothing: Known = { table: undefined, columns: [], column: () => undefined, error: undefined };

/**
 * Describes a table: its shown columns where none are named, and all else that is spoken of. What
 * is known of other columns stays while further ones are looked up. `tellsUnknown`: names that
 * there are not are a developer's mistake.
 */
export function useDescribed(
  client: Pick<Client, 'describe'> | undefined,
  table: string | undefined,
  names: readonly string[] | undefined,
  spokenOf: readonly string[],
  tellsUnknown: boolean,
): Described {
  const [state, setState] = useState<{ readonly of: readonly unknown[]; readonly known: Known }>({
    of: [],
    known: nothing,
  });
  const [tries, setTries] = useState(0);
  const shown = names?.join('\n');
  const further = spokenOf.join('\n');
  useEffect(() => {
    if (client === undefined || table === undefined) return undefined;
    const catalog = catalogOf(client);
    let wanted = true;
    const setKnown = (known: Known): void => {
      if (wanted) setState({ of: [client, table], known });
    };
    const load = async (): Promise<void> => {
      const description = await catalog.describe(table);
      const own =
        shown?.split('\n') ??
        description.columns.filter((column) => column.shown).map(({ name }) => name);
      const others = further === '' ? [] : further.split('\n').filter((one) => !own.includes(one));
      const found = await catalog.columns([...own, ...others], description);
      for (const [index, name] of own.entries()) {
        if (found[index] === undefined && wanted && tellsUnknown) tellUnknown(name, description);
      }
      const columns = toldApart(
        found.slice(0, own.length).filter((column) => column !== undefined),
      );
      const byName = new Map(
        [...found.flatMap((one) => one ?? []), ...columns].map((one) => [one.name, one]),
      );
      const column = (name: string): ColumnDescription | undefined =>
        byName.get(name) ?? catalog.column(name, description);
      setKnown({ table: description, columns, column, error: undefined });
    };
    load().catch((thrown: unknown) => {
      const error = thrown instanceof Error ? thrown : new Error(String(thrown));
      setKnown({ ...nothing, error });
    });
    return () => {
      wanted = false;
    };
  }, [client, table, shown, further, tellsUnknown, tries]);
  // Of another table nothing is known yet.
  const { of, known: last } = state;
  const known = of[0] === client && of[1] === table ? last : nothing;
  const retry = useCallback(() => setTries((before) => before + 1), []);
  return { ...known, retry };
}

function tellUnknown(name: string, { name: table, columns }: TableDescription): void {
  warnings.report(`${table} ${name}`, () => {
    const known = columns.map((column) => column.name).join(', ');
    return `${table} has no column ${name}, so that it is not shown. There are ${known}.`;
  });
}
