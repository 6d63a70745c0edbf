import { labelOf, type ColumnDescription } from '@ephoros/core/schema';

/** Related columns by the references that lead to them: `lock` holds `canal`, which holds `name`. */
export interface ColumnBranch {
  /** The way there: `lock.canal`. */
  readonly path: string;
  readonly label: string;
  readonly columns: readonly ColumnDescription[];
  readonly branches: readonly ColumnBranch[];
}

/** Columns of related rows as a tree, `within` the branch of a path; the top without one. */
export function columnTree(
  columns: readonly ColumnDescription[],
  within = '',
): readonly ColumnBranch[] {
  const before = within === '' ? '' : `${within}.`;
  const stepOf = ({ name }: ColumnDescription): string =>
    name.slice(before.length).split('.')[0] ?? '';
  return [...new Set(columns.map(stepOf))].map((step) => {
    const path = before + step;
    const below = columns.filter(({ name }) => name.startsWith(`${path}.`));
    const isDirect = ({ name }: ColumnDescription): boolean =>
      !name.slice(path.length + 1).includes('.');
    return {
      path,
      label: labelOf(step),
      columns: below.filter(isDirect),
      branches: columnTree(
        below.filter((one) => !isDirect(one)),
        path,
      ),
    };
  });
}
