import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';

/** For each column of a file the one of the table that its values go into; undefined for none. */
export type Matching = readonly (ColumnDescription | undefined)[];

/** The columns that new rows can have values of. */
export function addable({ columns }: TableDescription): readonly ColumnDescription[] {
  return columns.filter(({ writing }) => writing?.add === true);
}

/**
 * Columns of a file by what they are called: as in the database, as people read them, or as what is
 * shown in place of a key.
 */
export function matched(names: readonly string[], table: TableDescription): Matching {
  const left = new Set(addable(table));
  return names.map((name) => {
    const plain = plainName(name);
    const found = [...left].find((column) =>
      namesOf(column).some((one) => plainName(one) === plain),
    );
    if (found !== undefined) left.delete(found);
    return found;
  });
}

/** `quay.name` is shown in place of `quay_id`: a file may call it `quay`, too. */
function namesOf({ name, label, shownAs = '' }: ColumnDescription): readonly string[] {
  const related = shownAs === '' ? [] : [shownAs, shownAs.split('.')[0] ?? ''];
  return [name, label, ...related];
}

function plainName(name: string): string {
  return name.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
}
