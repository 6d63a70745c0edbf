import type { CheckedColumn } from '@ephoros/core/check';
import type { ColumnType } from '@ephoros/core/schema';
import type { Catalog } from '../catalog/index.ts';
import { Failure } from '../run/index.ts';

/**
 * Holds what a statement gave against what its columns are stated to be, so that nothing is encoded
 * as what it is not. @throws Failure `changed` where a column is of another type by now
 */
export function expectTypes(
  found: readonly number[],
  columns: readonly (Pick<CheckedColumn, 'type'> | undefined)[],
  { typeOf }: Pick<Catalog, 'typeOf'>,
): void {
  for (const [place, column] of columns.entries()) {
    const id = found[place];
    // Of a statement that was stopped nothing may be known.
    if (column === undefined || id === undefined) continue;
    const type = typeOf(id);
    if (type === undefined || !isWrittenLike(type, column.type)) {
      throw new Failure('changed', new Error(`a column is of the type ${id} by now`));
    }
  }
}

/** Whether values of a type stand in JSON like those of another. */
function isWrittenLike(type: ColumnType, expected: ColumnType): boolean {
  if (type.kind === 'array' && expected.kind === 'array') {
    return isWrittenLike(type.element, expected.element);
  }
  if (type.kind === 'integer' && expected.kind === 'integer') return type.bits <= expected.bits;
  if (type.kind === 'opaque' && expected.kind === 'opaque') return true;
  if ('zone' in type && 'zone' in expected && type.zone !== expected.zone) return false;
  return type.kind === expected.kind;
}
