import { conditionOf, withCondition, type Condition } from '@ephoros/core/query';
import { isMeasured, type ColumnDescription } from '@ephoros/core/schema';
import { useState, type ReactElement } from 'react';
import { formatText } from '../format/value.ts';
import type { ConditionKind } from '../messages/editor-messages.ts';
import { useModel } from '../parts/table-context.ts';
import { Choices } from './choices.tsx';
import { conditionFrom, draftOf, kindsFor, type Draft } from './condition-draft.ts';
import { Histogram } from './histogram.tsx';
import { firstProblem } from './read-filter.ts';
import { ValueInput } from './value-input.tsx';
import { ValuesList } from './values-list.tsx';

interface ConditionEditorProps {
  readonly column: ColumnDescription;
  readonly done: () => void;
}

/** The condition of one column: seen, set and removed. What it cannot say it leaves alone. */
export function ConditionEditor({ column, done }: ConditionEditorProps): ReactElement | null {
  const { view, change, request, column: columnNamed, table, reader } = useModel();
  const { editors } = reader.messages;
  const now = conditionOf(view.filter, column, reader.timeZone);
  const listed = request?.values !== undefined || column.type.kind === 'enum';
  const kinds = kindsFor(column).filter((one) => one !== 'oneOf' || listed);
  const [kind, setKind] = useState<ConditionKind | undefined>(
    now !== undefined && now.kind !== 'other' && kinds.includes(now.kind) ? now.kind : kinds[0],
  );
  const [draft, setDraft] = useState<Draft>(() => draftOf(now));
  const [complaint, setComplaint] = useState<string>();
  if (!column.filterable || kind === undefined) {
    return <p className="eph-aside">{editors.notComparable}</p>;
  }
  const put = (condition: Condition | undefined): void => {
    const filter = withCondition(view.filter, column, condition, reader.timeZone);
    const problem = filter && firstProblem(filter, table, columnNamed);
    setComplaint(problem);
    if (problem !== undefined) return;
    change({ filter, place: undefined });
    done();
  };
  return (
    <form
      className="eph-form"
      onSubmit={(event) => {
        event.preventDefault();
        put(conditionFrom(kind, draft, column));
      }}
    >
      {now?.kind === 'other' && <p className="eph-aside">{editors.tooComplex}</p>}
      <Choices
        inLine
        label={editors.how}
        values={kinds.map((value) => ({ value, text: editors.conditions[value] }))}
        chosen={kind}
        change={setKind}
      />
      {kind === 'oneOf' ? (
        <ValuesList
          column={column}
          chosen={draft.chosen}
          change={(chosen) => setDraft({ ...draft, chosen })}
          chooseMissing={() => {
            setKind('missing');
            setDraft({ ...draft, missing: true });
          }}
        />
      ) : (
        <>
          {kind === 'range' && isMeasured(column.type) && request?.values !== undefined && (
            <Histogram
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
        <p role="alert" className="eph-trouble">
          {complaint}
        </p>
      )}
      <div className="eph-actions">
        <button type="submit" className="eph-plate">
          {editors.apply}
        </button>
        {now !== undefined && (
          <button type="button" className="eph-offer" onClick={() => put(undefined)}>
            {editors.remove}
          </button>
        )}
      </div>
    </form>
  );
}

interface InputsProps {
  readonly kind: Exclude<ConditionKind, 'oneOf'>;
  readonly column: ColumnDescription;
  readonly draft: Draft;
  readonly change: (draft: Draft) => void;
}

function Inputs({ kind, column, draft, change }: InputsProps): ReactElement {
  const { reader } = useModel();
  const { editors } = reader.messages;
  switch (kind) {
    case 'missing':
      return (
        <Choices
          label={editors.conditions.missing}
          values={[
            { value: 'missing', text: editors.isMissing },
            { value: 'there', text: editors.isThere },
          ]}
          chosen={draft.missing ? 'missing' : 'there'}
          change={(choice) => change({ ...draft, missing: choice === 'missing' })}
        />
      );
    case 'equals':
    case 'contains':
      if (column.type.kind === 'boolean') {
        return (
          <Choices
            label={editors.conditions[kind]}
            values={[
              { value: 'true', text: formatText(true, column, reader) },
              { value: 'false', text: formatText(false, column, reader) },
            ]}
            chosen={draft.value === 'true' || draft.value === 'false' ? draft.value : ''}
            change={(value) => change({ ...draft, value })}
          />
        );
      }
      return (
        <ValueInput
          label={editors.conditions[kind]}
          column={column}
          value={draft.value}
          change={(value) => change({ ...draft, value })}
        />
      );
    case 'range':
      return (
        <>
          <ValueInput
            label={editors.from}
            column={column}
            value={draft.from}
            change={(from) => change({ ...draft, from })}
          />
          <ValueInput
            label={editors.to}
            column={column}
            value={draft.to}
            change={(to) => change({ ...draft, to })}
          />
        </>
      );
    default:
      throw new Error(`unknown kind ${JSON.stringify(kind satisfies never)}`);
  }
}
