import { checkQuery, type Tables } from '@ephoros/core/check';
import { parseExpression, printExpression } from '@ephoros/core/expression';
import { conditionOf, parseParameters, withCondition, type Condition } from '@ephoros/core/query';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { isMeasured, isNumeric } from '@ephoros/core/schema';
import { useId, useState, type ReactElement } from 'react';
import { reader } from '../service.ts';
import { Histogram } from './histogram.tsx';
import { MomentInput } from './moment-input.tsx';
import { ValuesList } from './values-list.tsx';
import type { View } from './view-state.ts';

type Kind = Exclude<Condition['kind'], 'other'>;

const names: Readonly<Record<Kind, string>> = {
  equals: 'is',
  oneOf: 'is one of',
  contains: 'contains',
  range: 'lies between',
  missing: 'is missing',
};

/** What can be asked of a column of this type, most usual first. */
function kindsFor({ type, nullable, aggregates }: ColumnDescription): Kind[] {
  const missing: Kind[] = nullable ? ['missing'] : [];
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

interface ConditionEditorProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly column: ColumnDescription;
  readonly done: () => void;
}

/** The condition of one column: seen, set and removed. */
export function ConditionEditor(props: ConditionEditorProps): ReactElement | null {
  const { view, table, column, done } = props;
  const now = conditionOf(view.query.filter, column, reader.timeZone);
  const kinds = kindsFor(column);
  const [kind, setKind] = useState<Kind | undefined>(
    now !== undefined && now.kind !== 'other' && kinds.includes(now.kind) ? now.kind : kinds[0],
  );
  const [draft, setDraft] = useState<Draft>(() => draftOf(now));
  const [complaint, setComplaint] = useState<string>();
  if (!column.filterable || kind === undefined) return null;

  const put = (condition: Condition | undefined): void => {
    const filter = withCondition(view.query.filter, column, condition, reader.timeZone);
    const text = filter && printExpression(filter);
    const problem = text === undefined ? undefined : firstProblem(text, table, view.tables);
    if (problem !== undefined) {
      setComplaint(problem);
      return;
    }
    view.change({ filter: text, page: undefined, offset: undefined });
    done();
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        put(conditionFrom(kind, draft, column));
      }}
    >
      {now?.kind === 'other' && (
        <p className="mb-2 text-sm text-faint">
          The condition in force says more than fits here; it would be replaced.
        </p>
      )}
      <div className="mb-3 flex flex-wrap gap-x-4 gap-y-1" role="radiogroup" aria-label="How">
        {kinds.map((one) => (
          <button
            key={one}
            type="button"
            role="radio"
            aria-checked={one === kind}
            className="cursor-pointer border-b-2 border-transparent text-faint aria-checked:border-amber aria-checked:text-ink"
            onClick={() => setKind(one)}
          >
            {names[one]}
          </button>
        ))}
      </div>
      {kind === 'oneOf' ? (
        <ValuesList
          view={view}
          table={table}
          column={column}
          chosen={draft.chosen}
          change={(chosen) => setDraft({ ...draft, chosen })}
          chooseMissing={() => put({ kind: 'missing', missing: true })}
        />
      ) : (
        <>
          {kind === 'range' && isMeasured(column.type) && (
            <Histogram
              view={view}
              table={table}
              column={column}
              from={draft.from}
              to={draft.to}
              choose={(from, to) => setDraft({ ...draft, from, to })}
            />
          )}
          <Inputs kind={kind} column={column} draft={draft} change={setDraft} />
        </>
      )}
      {complaint !== undefined && (
        <p role="alert" className="mt-2 max-w-72 text-sm text-fault">
          {complaint}
        </p>
      )}
      <div className="mt-4 flex gap-4">
        <button type="submit" className="plate">
          Apply
        </button>
        {now !== undefined && (
          <button type="button" className="offer" onClick={() => put(undefined)}>
            Remove
          </button>
        )}
      </div>
    </form>
  );
}

/** What stands in the inputs, for every kind at once. */
interface Draft {
  readonly value: string;
  readonly from: string;
  readonly to: string;
  readonly chosen: readonly string[];
  readonly missing: boolean;
}

function draftOf(condition: Condition | undefined): Draft {
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
function conditionFrom(
  kind: Kind,
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

function firstProblem(filter: string, table: TableDescription, tables: Tables): string | undefined {
  const read = parseExpression(filter);
  if ('problems' in read) return read.problems[0]?.message;
  const checked = checkQuery(parseParameters({ filter }).query, table, { tables });
  if ('checked' in checked) return undefined;
  const [first] = checked.problems;
  return first === undefined ? undefined : `${first.message} ${first.hint ?? ''}`;
}

interface InputsProps {
  readonly kind: Exclude<Kind, 'oneOf'>;
  readonly column: ColumnDescription;
  readonly draft: Draft;
  readonly change: (draft: Draft) => void;
}

function Inputs({ kind, column, draft, change }: InputsProps): ReactElement {
  const { type } = column;
  switch (kind) {
    case 'missing':
      return (
        <Choices
          values={['missing', 'there']}
          chosen={draft.missing ? 'missing' : 'there'}
          change={(choice) => change({ ...draft, missing: choice === 'missing' })}
        />
      );
    case 'equals':
    case 'contains':
      if (type.kind === 'boolean') {
        return (
          <Choices
            values={['true', 'false']}
            chosen={draft.value}
            change={(value) => change({ ...draft, value })}
          />
        );
      }
      return (
        <Input
          label={names[kind]}
          column={column}
          value={draft.value}
          change={(value) => change({ ...draft, value })}
        />
      );
    case 'range':
      return (
        <div className="grid gap-2">
          <Input
            label="from"
            column={column}
            value={draft.from}
            change={(from) => change({ ...draft, from })}
          />
          <Input
            label="to"
            column={column}
            value={draft.to}
            change={(to) => change({ ...draft, to })}
          />
        </div>
      );
    default:
      throw new Error(`unknown kind ${JSON.stringify(kind satisfies never)}`);
  }
}

interface ChoicesProps {
  readonly values: readonly string[];
  readonly chosen: string;
  readonly change: (chosen: string) => void;
}

function Choices({ values, chosen, change }: ChoicesProps): ReactElement {
  const name = useId();
  return (
    <ul className="grid gap-1">
      {values.map((value) => (
        <li key={value}>
          <label className="flex cursor-pointer items-center gap-2">
            <input
              type="radio"
              name={name}
              className="accent-amber"
              checked={value === chosen}
              onChange={() => change(value)}
            />
            {value === 'true' ? 'yes' : value === 'false' ? 'no' : value}
          </label>
        </li>
      ))}
    </ul>
  );
}

interface InputProps {
  readonly label: string;
  readonly column: ColumnDescription;
  readonly value: string;
  readonly change: (value: string) => void;
}

function Input({ label, column: { type }, value, change }: InputProps): ReactElement {
  return (
    <label className="flex items-baseline gap-3">
      <span className="w-16 shrink-0 text-faint">{label}</span>
      {type.kind === 'timestamp' ? (
        <MomentInput zone={type.zone ? reader.timeZone : 'UTC'} value={value} change={change} />
      ) : (
        <input
          className="field min-w-0 grow tabular-nums"
          type={type.kind === 'date' ? 'date' : 'text'}
          inputMode={isNumeric(type) ? 'decimal' : undefined}
          autoComplete="off"
          value={value}
          onChange={({ target }) => change(target.value)}
        />
      )}
    </label>
  );
}
