import { checkQuery } from '@ephoros/core/check';
import { parseExpression } from '@ephoros/core/expression';
import type { TableDescription, Tables, WrittenPaintRule } from '@ephoros/core/schema';
import type { TableConfiguration } from '../config/index.ts';

type Opening = Pick<TableDescription, 'begin' | 'fixed' | 'paint' | 'narrow'>;
type Report = (path: readonly PropertyKey[], message: string) => void;

/** What views of a table begin with, what they join, and how they look, as the configuration says. */
export function openingOf({ begin, fixed, paint, narrow }: TableConfiguration): Opening {
  return {
    ...(begin !== undefined && { begin }),
    ...(fixed !== undefined && { fixed }),
    ...(paint !== undefined && { paint }),
    ...(narrow !== undefined && { narrow }),
  };
}

/**
 * The description with what of that holds for it, such as for somebody who sees less of the table.
 * Each part that does not hold is left out, and reported.
 */
export function withOpening(
  table: TableDescription,
  { begin, fixed, paint, narrow }: Opening,
  tables: Tables,
  notify: Report = () => undefined,
): TableDescription {
  const holds = (path: readonly PropertyKey[], filter?: string, column?: string): boolean => {
    const read = filter === undefined ? { expression: undefined } : parseExpression(filter);
    const checked =
      'problems' in read
        ? read
        : checkQuery(
            {
              ...(read.expression && { filter: read.expression }),
              ...(column !== undefined && {
                columns: [{ name: column, span: { start: 0, end: 0 } }],
              }),
            },
            table,
            { tables },
          );
    if (!('problems' in checked)) return true;
    notify(path, checked.problems.map(({ message }) => message).join(' '));
    return false;
  };
  const { begin: _begin, fixed: _fixed, paint: _paint, narrow: _narrow, ...rest } = table;
  const first = narrow?.filter((name, index) => holds(['narrow', index], undefined, name));
  const painted = paint?.filter((rule, index) =>
    'when' in rule
      ? holds(['paint', index], rule.when, rule.column)
      : holds(['paint', index], undefined, columnOf(rule)),
  );
  return {
    ...rest,
    ...openingOf({
      begin: begin !== undefined && holds(['begin'], begin) ? begin : undefined,
      fixed: fixed !== undefined && holds(['fixed'], fixed) ? fixed : undefined,
      narrow: first?.length === 0 ? undefined : first,
      paint: painted?.length === 0 ? undefined : painted,
    }),
  };
}

function columnOf(rule: Exclude<WrittenPaintRule, { when: string }>): string {
  return 'bar' in rule ? rule.bar : rule.scale;
}
