import type { Row } from '@ephoros/client';
import type { Expression } from '@ephoros/core/expression';
import { conditionOf, withCondition, withoutValue } from '@ephoros/core/query';
import type { ColumnDescription } from '@ephoros/core/schema';
import { kindsFor } from '../editors/condition-draft.ts';
import { formatText, plainText } from '../format/value.ts';
import type { MenuMessages } from '../messages/menu-messages.ts';
import { useModel } from '../parts/table-context.ts';

/** Something that a menu offers. */
export interface Offer {
  readonly text: string;
  readonly choose: () => void;
}

/** Characters of a value that a menu has room for. */
const mostCharacters = 30;

/** The conditions that a value of a column says: it alone, all but it, from it on, up to it. */
export function useValueOffers(
  column: ColumnDescription | undefined,
  row: Row | undefined,
  menu: MenuMessages,
): readonly Offer[] {
  const { view, change, reader } = useModel();
  if (column?.filterable !== true || row === undefined) return [];
  const value = row[column.name] ?? null;
  const { timeZone } = reader;
  const { filter } = view;
  const shown = formatText(value, column, reader);
  const written = shown.length > mostCharacters ? `${shown.slice(0, mostCharacters - 1)}…` : shown;
  const offer = (kind: 'only' | 'but' | 'from' | 'upTo', next: Expression | undefined): Offer => ({
    text: menu[kind](column.label, written),
    choose: () => change({ filter: next, place: undefined }),
  });
  if (value === null) {
    const missing = (is: boolean): Expression | undefined =>
      withCondition(filter, column, { kind: 'missing', missing: is }, timeZone);
    return [offer('only', missing(true)), offer('but', missing(false))];
  }
  const exact = plainText(value);
  const kinds = kindsFor(column);
  const equals = { kind: 'equals', value: exact } as const;
  const same = kinds.includes('equals') || kinds.includes('oneOf');
  const range = (end: 'from' | 'to'): Expression | undefined => {
    // The other end stays.
    const now = conditionOf(filter, column, timeZone);
    const { from, to } = now?.kind === 'range' ? now : {};
    const ends = { ...(from && { from }), ...(to && { to }), [end]: exact };
    return withCondition(filter, column, { kind: 'range', ...ends }, timeZone);
  };
  return [
    ...(same
      ? [
          offer('only', withCondition(filter, column, equals, timeZone)),
          offer('but', withoutValue(filter, column, exact, timeZone)),
        ]
      : []),
    ...(kinds.includes('range') ? [offer('from', range('from')), offer('upTo', range('to'))] : []),
  ];
}
