import {
  findColumn,
  toldApart,
  type FoundColumn,
  type TableDescription,
} from '@ephoros/core/schema';

/**
 * What a table's columns are, in the order in which they are named; a related one (`lock.name`) is
 * followed through the tables on its way. Undefined for those that there are not.
 */
export async function describeColumns(
  names: readonly string[],
  table: TableDescription,
  describe: (table: string) => Promise<TableDescription>,
): Promise<readonly (FoundColumn | undefined)[]> {
  const known = new Map<string, TableDescription>();
  const find = async (name: string): Promise<FoundColumn | undefined> => {
    const found = findColumn(name, table, (one) => known.get(one));
    if ('own' in found) return found;
    const { wanted } = found;
    if (wanted === undefined) return undefined;
    known.set(wanted, await describe(wanted));
    return find(name);
  };
  const columns = await Promise.all(names.map(find));
  const apart = toldApart(columns.filter((column) => column !== undefined));
  return columns.map((column) => apart.find((one) => one.name === column?.name));
}
