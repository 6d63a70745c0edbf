import type { Condition } from '@ephoros/core/query';
import { isNumeric, type ColumnDescription, type ColumnType } from '@ephoros/core/schema';
import { useState, type ReactElement } from 'react';
import { useMessages } from '../messages/use-messages.ts';
import type { Messages } from '../messages/messages.ts';

interface ConditionFormProps {
  readonly column: ColumnDescription;
  readonly condition: Condition | undefined;
  readonly onChange: (condition: Condition | undefined) => void;
}

type Kind = 'any' | 'contains' | 'equals' | 'oneOf' | 'range' | 'missing' | 'there' | 'other';

/** Which conditions there are for a type. */
function kindsFor({ type, nullable }: ColumnDescription): readonly Kind[] {
  const ends: readonly Kind[] = nullable ? ['missing', 'there'] : [];
  if (type.kind === 'enum' || type.kind === 'boolean') return ['any', 'oneOf', ...ends];
  if (isNumeric(type) || type.kind === 'date' || type.kind === 'timestamp') {
    return ['any', 'range', 'equals', ...ends];
  }
  return type.kind === 'text' ? ['any', 'contains', 'equals', ...ends] : ['any', 'equals', ...ends];
}

function kindOf(condition: Condition | undefined, type: ColumnType): Kind {
  if (condition === undefined) return 'any';
  if (condition.kind === 'missing') return condition.missing ? 'missing' : 'there';
  const listed = type.kind === 'enum' || type.kind === 'boolean';
  return condition.kind === 'equals' && listed ? 'oneOf' : condition.kind;
}

/** The fields of a form, as texts. */
interface Fields {
  readonly value: string;
  readonly from: string;
  readonly to: string;
  readonly values: readonly string[];
}

function fieldsOf(condition: Condition | undefined): Fields {
  const none: Fields = { value: '', from: '', to: '', values: [] };
  switch (condition?.kind) {
    case 'equals':
      return { ...none, value: condition.value, values: [condition.value] };
    case 'contains':
      return { ...none, value: condition.value };
    case 'oneOf':
      return { ...none, values: condition.values };
    case 'range':
      return { ...none, from: condition.from ?? '', to: condition.to ?? '' };
    default:
      return none;
  }
}

/** The condition that a form says; undefined for none. */
function conditionFrom(kind: Kind, { value, from, to, values }: Fields): Condition | undefined {
  switch (kind) {
    case 'contains':
    case 'equals':
      return value === '' ? undefined : { kind, value };
    case 'oneOf':
      return values.length === 0 ? undefined : { kind, values };
    case 'range':
      return from === '' && to === ''
        ? undefined
        : { kind, ...(from === '' ? {} : { from }), ...(to === '' ? {} : { to }) };
    case 'missing':
      return { kind, missing: true };
    case 'there':
      return { kind: 'missing', missing: false };
    default:
      return undefined;
  }
}

function nameOf(kind: Kind, messages: Messages): string {
  const names: Readonly<Record<Kind, string>> = {
    any: messages.anyValue,
    contains: messages.contains,
    equals: messages.equals,
    oneOf: messages.equals,
    range: `${messages.from} … ${messages.to}`,
    missing: messages.onlyMissing,
    there: messages.notMissing,
    other: messages.otherCondition,
  };
  return names[kind];
}

/** Sets the condition on a column. */
export function ConditionForm(props: ConditionFormProps): ReactElement {
  const { column, condition, onChange } = props;
  const messages = useMessages();
  const { type } = column;
  const kinds = kindsFor(column);
  const [kind, setKind] = useState<Kind>(() => {
    const now = kindOf(condition, type);
    // Whoever opens this means to set one.
    return now === 'any' ? (kinds[1] ?? 'any') : now;
  });
  const [fields, setFields] = useState(() => fieldsOf(condition));
  const set = (more: Partial<Fields>): void => setFields((last) => ({ ...last, ...more }));
  const input = inputFor(type);
  return (
    <form
      className="eph-form"
      onSubmit={(event) => {
        event.preventDefault();
        onChange(conditionFrom(kind, fields));
      }}
    >
      <label>
        <span>{messages.condition}</span>
        <select value={kind} onChange={({ target }) => setKind(target.value as Kind)}>
          {kinds.map((one) => (
            <option key={one} value={one}>
              {nameOf(one, messages)}
            </option>
          ))}
        </select>
      </label>
      {(kind === 'contains' || kind === 'equals') && (
        <input
          {...(kind === 'equals' ? input : { type: 'text' })}
          aria-label={nameOf(kind, messages)}
          value={fields.value}
          onChange={({ target }) => set({ value: target.value })}
        />
      )}
      {kind === 'range' && (
        <div className="eph-range">
          {(['from', 'to'] as const).map((end) => (
            <label key={end}>
              <span>{messages[end]}</span>
              <input
                {...input}
                value={fields[end]}
                onChange={({ target }) => set({ [end]: target.value })}
              />
            </label>
          ))}
        </div>
      )}
      {kind === 'oneOf' &&
        choicesOf(type, messages).map(({ value, label }) => (
          <label key={value} className="eph-choice">
            <input
              type="checkbox"
              checked={fields.values.includes(value)}
              onChange={({ target }) =>
                set({
                  values: target.checked
                    ? [...fields.values, value]
                    : fields.values.filter((one) => one !== value),
                })
              }
            />
            {label}
          </label>
        ))}
      <div className="eph-deeds">
        <button type="submit">{messages.apply}</button>
        <button
          type="button"
          disabled={condition === undefined}
          onClick={() => onChange(undefined)}
        >
          {messages.clear}
        </button>
      </div>
    </form>
  );
}

function choicesOf(
  type: ColumnType,
  messages: Messages,
): readonly { value: string; label: string }[] {
  if (type.kind === 'enum') return type.values.map((value) => ({ value, label: value }));
  return [
    { value: 'true', label: messages.yes },
    { value: 'false', label: messages.no },
  ];
}

/** What a value of a type is typed into. */
function inputFor(type: ColumnType): { type: string; step?: string } {
  if (isNumeric(type)) return { type: 'number', step: 'any' };
  return { type: type.kind === 'date' || type.kind === 'timestamp' ? 'date' : 'text' };
}
