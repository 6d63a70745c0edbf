import { labelOf, type ColumnDescription, type TableDescription } from '@ephoros/core/schema';

/**
 * What a table's columns are, in the order in which they are named; a related one (`lock.name`) is
 * followed through the tables on its way. Undefined for those that there are not.
 */
export async function describeColumns(
  names: readonly string[],
  table: TableDescription,
  describe: (table: string) => Promise<TableDescription>,
): Promise<readonly (ColumnDescription | undefined)[]> {
  return Promise.all(
    names.map(async (name) => {
      const own = table.columns.find((column) => column.name === name);
      if (own !== undefined) return own;
      const steps = name.split('.');
      const last = steps.pop();
      let there = table;
      for (const step of steps) {
        const next = there.relationships.find((one) => one.kind === 'one' && one.name === step);
        if (next === undefined) return undefined;
        there = await describe(next.table);
      }
      const found = there.columns.find((column) => column.name === last);
      if (found === undefined || steps.length === 0) return undefined;
      const label = `${labelOf(steps.join(' '))} ${found.label.toLowerCase()}`;
      // A row may refer to none; and no index leads there.
      return { ...found, name, label, nullable: true, indexed: false };
    }),
  );
}
