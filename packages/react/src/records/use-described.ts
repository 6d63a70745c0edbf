import { catalogOf, type Catalog, type Client } from '@ephoros/client';
import {
  findColumn,
  shownNames,
  toldApart,
  type ColumnDescription,
  type TableDescription,
} from '@ephoros/core/schema';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { namesInView, namesOf } from '@ephoros/core/view';
import type { FirstRows } from './first-rows.ts';
import { openingRequest, cacheOpening, openingOf, type Opening } from './opening.ts';
import { warnings } from '../warnings.ts';

/** What a table and columns of it are, once that is known. */
export interface Described {
  readonly table: TableDescription | undefined;
  /** The columns that are shown, in their order. */
  readonly columns: readonly ColumnDescription[];
  /** A column by its name, also a related one; undefined where there is none, or not yet. */
  readonly column: (name: string) => ColumnDescription | undefined;
  /** What its views begin with and join. */
  readonly opening: Opening;
  readonly error: Error | undefined;
  /** Asks again, after a failure. */
  readonly retry: () => void;
}

type Known = Omit<Described, 'retry'>;

const nothing: Known = {
  table: undefined,
  columns: [],
  column: () => undefined,
  opening: {},
  error: undefined,
};

/**
 * Describes a table: its shown columns where none are named, and all else that is spoken of. What
 * is known of other columns stays while further ones are looked up. `tellsUnknown`: names that
 * there are not are a developer's error.
 */
export function useDescribed(
  client: Pick<Client, 'describe'> | undefined,
  table: string | undefined,
  names: readonly string[] | undefined,
  spokenOf: readonly string[],
  reportsUnknown: boolean,
  initial: FirstRows | undefined,
): Described {
  const [state, setState] = useState<{ readonly of: readonly unknown[]; readonly known: Known }>(
    () => {
      if (client === undefined || table === undefined || initial === undefined) {
        return { of: [], known: nothing };
      }
      const catalog = catalogOf(client);
      for (const one of initial.descriptions) catalog.learn(one);
      const own = catalog.known(table);
      if (own !== undefined && initial.opening) cacheOpening(own, initial.opening);
      return { of: [client, table], known: knownNow(catalog, table, names, spokenOf) ?? nothing };
    },
  );
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
    const notify = async (
      description: TableDescription,
      opening: Opening | undefined,
    ): Promise<void> => {
      const own = shown?.split('\n');
      const requests = further === '' ? [] : further.split('\n');
      const others = opening === undefined ? requests : [...requests, ...namesOpened(opening)];
      const shownHere = own ?? shownNames(description);
      const found = await catalog.columns([...shownHere, ...others], description);
      for (const [index, name] of (own ?? []).entries()) {
        if (found[index] === undefined && wanted && reportsUnknown)
          reportUnknown(name, description);
      }
      const known = knownNow(catalog, table, own, others);
      if (known !== undefined) setKnown(known);
    };
    const load = async (): Promise<void> => {
      const description = await catalog.describe(table);
      const opening = openingOf(description);
      // Paint alone keeps nobody waiting: it comes behind the rows.
      if (opening === undefined && !changesQuery(description)) {
        await notify(description, undefined);
      }
      await notify(description, opening ?? (await openingRequest(description)));
    };
    load().catch((thrown: unknown) => {
      const error = thrown instanceof Error ? thrown : new Error(String(thrown));
      setKnown({ ...nothing, error });
    });
    return () => {
      wanted = false;
    };
  }, [client, table, shown, further, reportsUnknown, tries]);
  // Of another table nothing is known yet.
  const { of, known: last } = state;
  const known = of[0] === client && of[1] === table ? last : nothing;
  const retry = useCallback(() => setTries((before) => before + 1), []);
  return { ...known, retry };
}

/** What the tables that were read say; undefined where one of them was not read yet. */
function knownNow(
  catalog: Catalog,
  table: string,
  names: readonly string[] | undefined,
  spokenOf: readonly string[],
): Known | undefined {
  const description = catalog.known(table);
  const read = description && openingOf(description);
  const isLate = description !== undefined && !changesQuery(description);
  const opening = read ?? (isLate ? {} : undefined);
  if (description === undefined || opening === undefined) return undefined;
  const own = names ?? shownNames(description);
  const found = [...new Set([...own, ...spokenOf])].map((name) =>
    findColumn(name, description, catalog.known),
  );
  if (found.some((one) => !('own' in one) && one.wanted !== undefined)) return undefined;
  const all = toldApart(found.filter((one) => 'own' in one));
  const byName = new Map(all.map((one) => [one.name, one]));
  const columns = toldApart(own.flatMap((name) => byName.get(name) ?? []));
  for (const column of columns) byName.set(column.name, column);
  const column = (name: string): ColumnDescription | undefined =>
    byName.get(name) ?? catalog.column(name, description);
  return { table: description, columns, column, opening, error: undefined };
}

/** Whether what views begin with has another question requested. */
function changesQuery({ begin, fixed }: TableDescription): boolean {
  return begin !== undefined || fixed !== undefined;
}

/** The columns that are spoken of by what views begin with. */
function namesOpened({ begin, fixed, paint }: Opening): readonly string[] {
  return namesInView({
    ...(begin && { filter: begin }),
    ...(paint && { paint }),
  }).concat(fixed === undefined ? [] : namesOf(fixed));
}

function reportUnknown(name: string, { name: table, columns }: TableDescription): void {
  warnings.report(`${table} ${name}`, () => {
    const known = columns.map((column) => column.name).join(', ');
    return `${table} has no column ${name}, so that it is not shown. There are ${known}.`;
  });
}

/** A column as a program describes it, where it does; else as the table does. */
export function useColumn(
  described: readonly ColumnDescription[] | undefined,
  column: Described['column'],
): Described['column'] {
  return useMemo(
    () => (described === undefined ? column : (name) => described.find((one) => one.name === name)),
    [described, column],
  );
}
