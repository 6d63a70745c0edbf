import { catalogOf, printParameters, type WrittenQuery } from '@ephoros/client';
import type { Problem } from '@ephoros/core/problem';
import {
  columnsAround,
  toldApart,
  type ColumnDescription,
  type TableDescription,
} from '@ephoros/core/schema';
import type { Density, Reading, ViewTexts } from '@ephoros/core/view';
import { useCallback, useMemo } from 'react';
import type { FullReader } from '../format/value.ts';
import type { TableModel } from '../parts/table-context.ts';
import type { RequestClient } from '../records/request-client.ts';
import { requestsByRows } from '../records/row-requests.ts';
import type { Drawn } from '../records/use-records.ts';
import type { TableColumn } from '../table/column.ts';
import { useSameMembers } from '../use-same-members.ts';
import { useSame } from '../use-same.ts';

/** Foreign keys followed to offer related columns. */
const stepsAway = 2;

interface ModelOptions {
  readonly records: Drawn;
  readonly client: RequestClient | undefined;
  readonly title: string;
  readonly usualReading: Reading;
  /** The columns that can be shown, described as they are defined. */
  readonly columns: readonly ColumnDescription[];
  /** The columns as they are drawn. */
  readonly drawn: readonly TableColumn[];
  readonly fit: (names?: readonly string[]) => void;
  readonly shown: readonly string[];
  readonly pins: TableModel['pins'];
  /** Whether further columns of related rows can be shown. */
  readonly addable: boolean;
  readonly problems: readonly Problem[] | undefined;
  readonly texts: ViewTexts | undefined;
  readonly density: Density;
  readonly reader: FullReader;
}

/** What the parts of a table share. */
export function useTableModel(options: ModelOptions): TableModel {
  const { records, client, title, usualReading, columns, drawn, shown, pins } = options;
  const { texts, reader } = options;
  const { view, change, reading, column: columnNamed, request, pager, description } = records;
  const { table: described, match } = records;
  const table = useMemo((): TableDescription => {
    // Of a table that nobody describes the columns that are defined are known.
    const all = described.columns.length > 0 ? described.columns : columns;
    const related = described.related && asDefined(described.related, columns);
    return {
      ...described,
      title: described.title || title,
      columns: asDefined(all, columns),
      ...(related && { related }),
    };
  }, [described, columns, title]);
  const column = useCallback(
    (name: string) => columns.find((one) => one.name === name) ?? columnNamed(name),
    [columns, columnNamed],
  );
  const describe = useCallback(async () => {
    if (client === undefined || description === undefined) return [];
    const catalog = catalogOf(client);
    await catalog.around(description.name, stepsAway);
    return asDefined(toldApart(columnsAround(description, catalog.known, stepsAway)), columns);
  }, [client, description, columns]);
  const other = useCallback(
    async (name: string) => {
      if (client === undefined) throw new Error('there is nobody to ask');
      const wanted = await catalogOf(client).describe(name);
      return { table: wanted, request: requestsByRows(client, name, 0) };
    },
    [client],
  );
  const problems = useProblems(options);
  const widthOf = useCallback(
    (name: string) => drawn.find((one) => one.name === name)?.width ?? 100,
    [drawn],
  );
  const sizes = useSame(pager.sizes, pager.sizes.join());
  const names = useSame(shown, JSON.stringify(shown));
  return useSameMembers({
    view,
    change,
    table,
    reading,
    usualReading,
    columns,
    shown: names,
    pins,
    addable: options.addable && client !== undefined,
    widthOf,
    fit: options.fit,
    column,
    request,
    describe: client === undefined ? undefined : describe,
    other: client === undefined ? undefined : other,
    fixed: records.fixed,
    match,
    sizes,
    problems,
    texts,
    usualDensity: options.density,
    reader,
  });
}

/** Columns as they are defined, where they are; else as they are described. */
function asDefined(
  described: readonly ColumnDescription[],
  defined: readonly ColumnDescription[],
): readonly ColumnDescription[] {
  const known = new Map(defined.map((one) => [one.name, one]));
  return described.map((one) => known.get(one.name) ?? one);
}

const none: readonly Problem[] = [];

/** What could not be read, and what was refused, at its place where that is the reader's own text. */
function useProblems({ records, problems = none }: ModelOptions): readonly Problem[] {
  const { problems: refused, query, view } = records;
  const ownFilter = printed(query) === printed({ filter: view.filter });
  return useMemo(() => {
    if (refused.length === 0) return problems;
    const shownProblems = ownFilter
      ? refused
      : refused.map(({ code, parameter, message, hint }) => ({
          code,
          message,
          ...(parameter === undefined ? {} : { parameter }),
          ...(hint === undefined ? {} : { hint }),
        }));
    return [...problems, ...shownProblems];
  }, [problems, refused, ownFilter]);
}

function printed({ filter }: { readonly filter?: WrittenQuery['filter'] | undefined }): string {
  return printParameters(filter === undefined ? {} : { filter }).join();
}
