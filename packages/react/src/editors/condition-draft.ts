import type { Condition } from '@ephoros/core/query';
import { isNumeric, type ColumnDescription } from '@ephoros/core/schema';
import type { ConditionKind } from '../messages/editor-messages.ts';

/** What can be requested of a column of this type, most usual first. */
export function kindsFor({ type, nullable, aggregates }: ColumnDescription): ConditionKind[] {
  const missing: ConditionKind[] = nullable ? ['missing'] : [];
  if (isNumeric(type)) {
    // Numbers that name things are chosen, others measured.
    return aggregates.includes('sum')
      ? ['range', 'oneOf', 'equals', ...missing]
      : ['oneOf', 'range', 'equals', ...missing];
  }
  switch (type.kind) {
    case 'text':
      return ['oneOf', 'contains', 'equals', ...missing];
    case 'date':
      return ['range', 'oneOf', 'equals', ...missing];
    case 'interval':
    case 'time':
    case 'timestamp':
      return ['range', 'equals', ...missing];
    case 'enum':
      return ['oneOf', ...missing];
    case 'boolean':
    case 'uuid':
      return ['equals', ...missing];
    default:
      return missing;
  }
}

/** What stands in the inputs, for every kind at once. */
export interface Draft {
  readonly value: string;
  readonly from: string;
  readonly to: string;
  readonly chosen: readonly string[];
  readonly missing: boolean;
}

/** The inputs for a condition in force. */
export function draftOf(condition: Condition | undefined): Draft {
  const blank: Draft = { value: '', from: '', to: '', chosen: [], missing: true };
  switch (condition?.kind) {
    case 'equals':
      return { ...blank, value: condition.value, chosen: [condition.value] };
    case 'contains':
      return { ...blank, value: condition.value };
    case 'oneOf':
      return { ...blank, chosen: condition.values };
    case 'range':
      return { ...blank, from: condition.from ?? '', to: condition.to ?? '' };
    case 'missing':
      return { ...blank, missing: condition.missing };
    case 'other':
    case undefined:
      return blank;
    default:
      throw new Error(`unknown condition ${JSON.stringify(condition satisfies never)}`);
  }
}

/** The condition that the inputs say; undefined when they say nothing. */
export function conditionFrom(
  kind: ConditionKind,
  { value, from, to, chosen, missing }: Draft,
  { type }: ColumnDescription,
): Condition | undefined {
  switch (kind) {
    case 'equals':
      // The empty text is a value like any other; of other types there is none.
      return value === '' && type.kind !== 'text' ? undefined : { kind, value };
    case 'contains':
      return value === '' ? undefined : { kind, value };
    case 'oneOf': {
      const [only] = chosen;
      if (only === undefined) return undefined;
      return chosen.length === 1 ? { kind: 'equals', value: only } : { kind, values: chosen };
    }
    case 'range': {
      if (from === '' && to === '') return undefined;
      return { kind, ...(from === '' ? {} : { from }), ...(to === '' ? {} : { to }) };
    }
    case 'missing':
      return { kind, missing };
    default:
      throw new Error(`unknown kind ${JSON.stringify(kind satisfies never)}`);
  }
}
