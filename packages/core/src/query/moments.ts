import { compare, isProperty, property, type Expression } from '../expression/index.ts';
import { dayAfter, momentAt, wallAt } from '../moment/index.ts';
import type { ColumnDescription } from '../schema/index.ts';

/** A condition on moments: one of them, or a stretch with one end at least. */
type OfMoments =
  | { readonly kind: 'equals'; readonly value: string }
  | { readonly kind: 'range'; readonly from?: string; readonly to?: string };

const nowhere = { start: 0, end: 0 };
const isDay = /^\d{4}-\d\d-\d\d$/;

/**
 * A condition on timestamps as terms. A day is taken from its first moment up to, not including, the
 * first of the next one, by the clocks of a zone; a column without a zone has its own.
 */
export function writeMoments(
  condition: OfMoments,
  column: ColumnDescription,
  zone: string,
): readonly Expression[] {
  const self = property(column.name);
  const clock = clockOf(column, zone);
  const { from, to } =
    condition.kind === 'range'
      ? { from: condition.from, to: condition.to }
      : { from: condition.value, to: condition.value };
  if (condition.kind === 'equals' && !isDay.test(condition.value)) {
    return [compare(self, '=', timestamp(condition.value))];
  }
  const terms: Expression[] = [];
  if (from !== undefined) {
    terms.push(compare(self, '>=', isDay.test(from) ? beginning(from, clock) : timestamp(from)));
  }
  if (to !== undefined) {
    terms.push(
      isDay.test(to)
        ? compare(self, '<', beginning(dayAfter(to, 1), clock))
        : compare(self, '<=', timestamp(to)),
    );
  }
  return terms;
}

/** The other way round; undefined for terms that no editor of moments writes. */
export function readMoments(
  terms: readonly Expression[],
  column: ColumnDescription,
  zone: string,
): OfMoments | undefined {
  const clock = clockOf(column, zone);
  let from: string | undefined;
  let to: string | undefined;
  for (const term of terms) {
    if (term.kind !== 'comparison' || !isProperty(term.left, column.name)) return undefined;
    const at = momentIn(term.right, clock);
    if (at === undefined) return undefined;
    if (term.comparator === '=' && terms.length === 1 && !isDay.test(at)) {
      return { kind: 'equals', value: at };
    }
    if (term.comparator === '>=' && from === undefined) from = at;
    else if (term.comparator === '<=' && to === undefined && !isDay.test(at)) to = at;
    else if (term.comparator === '<' && to === undefined && isDay.test(at)) to = dayAfter(at, -1);
    else return undefined;
  }
  if (from !== undefined && from === to && isDay.test(from)) return { kind: 'equals', value: from };
  return {
    kind: 'range',
    ...(from === undefined ? {} : { from }),
    ...(to === undefined ? {} : { to }),
  };
}

function clockOf({ type }: ColumnDescription, zone: string): string {
  return type.kind === 'timestamp' && type.zone ? zone : 'UTC';
}

/** The first moment of a day. A date stands for its midnight in UTC. */
function beginning(day: string, clock: string): Expression {
  const moment = clock === 'UTC' ? undefined : momentAt(`${day}T00:00:00`, clock);
  return moment === undefined ? { kind: 'date', value: day, span: nowhere } : timestamp(moment);
}

function timestamp(value: string): Expression {
  return { kind: 'timestamp', value, span: nowhere };
}

/** The day that a moment is the beginning of; else the moment itself. */
function momentIn(literal: Expression, clock: string): string | undefined {
  if (literal.kind !== 'date' && literal.kind !== 'timestamp') return undefined;
  const { value } = literal;
  if (clock === 'UTC') return value;
  const moment = literal.kind === 'date' ? `${value}T00:00:00Z` : value;
  const [day = ''] = wallAt(moment, clock)?.split('T') ?? [];
  return momentAt(`${day}T00:00:00`, clock) === moment ? day : moment;
}
