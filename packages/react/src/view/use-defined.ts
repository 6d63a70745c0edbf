import { columnsToChoose, toldApart, type ColumnDescription } from '@ephoros/core/schema';
import { useMemo } from 'react';
import type { Drawn } from '../records/use-records.ts';
import { describedBy, type ColumnDefinition } from './column-definition.ts';
import type { DefinedColumn } from './columns.tsx';

/** The columns that are shown, as they are defined and described. */
export function useDefined(
  { columns }: Drawn,
  definitions: readonly ColumnDefinition[] | undefined,
): readonly DefinedColumn[] {
  return useMemo(() => {
    if (definitions === undefined) {
      return columns.map((described) => ({ definition: { name: described.name }, described }));
    }
    return definitions.flatMap((definition) => {
      const described = columns.find(({ name }) => name === definition.name);
      return described === undefined
        ? []
        : [{ definition, described: describedBy(definition, described) }];
    });
  }, [columns, definitions]);
}

/** The columns that can be shown: those defined; else all of the table, and those in view. */
export function useAll(
  { description }: Drawn,
  defined: readonly DefinedColumn[],
  definitions: readonly ColumnDefinition[] | undefined,
): readonly ColumnDescription[] {
  return useMemo(() => {
    const own = defined.map(({ described }) => described);
    if (definitions !== undefined || description === undefined) return own;
    const named = columnsToChoose(description);
    const names = new Set(named.map(({ name }) => name));
    return toldApart([...named, ...own.filter(({ name }) => !names.has(name))]);
  }, [description, defined, definitions]);
}
