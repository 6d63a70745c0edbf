import { printExpression, type Expression } from '@ephoros/core/expression';
import {
  operatorsOf,
  readColumnTerm,
  valuesTaken,
  writeColumnTerm,
  type Operator,
} from '@ephoros/core/query';
import { isMeasured, type ColumnDescription } from '@ephoros/core/schema';
import { useState, type ReactElement, type SyntheticEvent } from 'react';
import { formatText } from '../format/value.ts';
import { useModel } from '../parts/table-context.ts';
import { useBuilder } from './builder-context.ts';
import { Choices } from './choices.tsx';
import { ColumnFinder } from './column-finder.tsx';
import { Histogram } from './histogram.tsx';
import { firstProblem, readSound } from './read-filter.ts';
import { ValueInput } from './value-input.tsx';
import { ValuesList } from './values-list.tsx';

interface TermFormProps {
  /** Undefined of one that is to be. */
  readonly expression: Expression | undefined;
  readonly apply: (expression: Expression) => void;
  readonly cancel: () => void;
}

/** One condition: a column, what is stated about it, and the values; or a text, where it says more. */
export function TermForm({ expression, apply, cancel }: TermFormProps): ReactElement {
  const { column: columnNamed, reader } = useModel();
  const { messages } = useBuilder();
  const term = expression && readColumnTerm(expression, columnNamed, reader.timeZone);
  const [chosen, setChosen] = useState<ColumnDescription | undefined>(
    () => term && columnNamed(term.column),
  );
  const [asText, setAsText] = useState(expression !== undefined && term === undefined);
  if (asText) return <TextForm expression={expression} apply={apply} cancel={cancel} />;
  if (chosen === undefined) {
    return (
      <div className="eph-term">
        <ColumnFinder offers={(one) => operatorsOf(one).length > 0} choose={setChosen} />
        <div className="eph-actions">
          <button type="button" className="eph-offer" onClick={() => setAsText(true)}>
            {messages.asText}
          </button>
          <button type="button" className="eph-offer" onClick={cancel}>
            {messages.cancel}
          </button>
        </div>
      </div>
    );
  }
  return (
    <ColumnForm
      key={chosen.name}
      column={chosen}
      operator={term?.column === chosen.name ? term.operator : undefined}
      values={term?.column === chosen.name ? term.values : []}
      apply={apply}
      cancel={cancel}
      another={() => setChosen(undefined)}
    />
  );
}

interface ColumnFormProps extends Omit<TermFormProps, 'expression'> {
  readonly column: ColumnDescription;
  readonly operator: Operator | undefined;
  readonly values: readonly string[];
  /** Another column shall be chosen. */
  readonly another: () => void;
}

function ColumnForm(props: ColumnFormProps): ReactElement {
  const { column, apply, cancel, another } = props;
  const { request, table, column: columnNamed, reader } = useModel();
  const { editors } = reader.messages;
  const { messages } = useBuilder();
  const possible = operatorsOf(column);
  const [operator, setOperator] = useState(props.operator ?? possible[0] ?? 'there');
  const [values, setValues] = useState<readonly string[]>(props.values);
  const [complaint, setComplaint] = useState<string>();
  const taken = valuesTaken(operator);
  const ofTime = ['date', 'time', 'timestamp'].includes(column.type.kind);
  const isListed = request?.values !== undefined || column.type.kind === 'enum';
  const [first = '', second = ''] = values;
  const submit = (event: SyntheticEvent): void => {
    event.preventDefault();
    const written = writeColumnTerm(
      { column: column.name, operator, values },
      column,
      reader.timeZone,
    );
    const problem =
      written === undefined ? editors.valueMissing : firstProblem(written, table, columnNamed);
    setComplaint(problem);
    if (written !== undefined && problem === undefined) apply(written);
  };
  return (
    <form className="eph-term eph-form" onSubmit={submit}>
      <div className="eph-in-line">
        <button type="button" className="eph-offer" title={messages.otherColumn} onClick={another}>
          {column.label}
        </button>
        <select
          className="eph-field"
          aria-label={messages.operator}
          value={operator}
          onChange={({ target }) => {
            const next = target.value as Operator;
            setOperator(next);
            if (valuesTaken(next) === 1) setValues(values.slice(0, 1));
          }}
        >
          {possible.map((one) => (
            <option key={one} value={one}>
              {(ofTime ? messages.timeOperators[one] : undefined) ?? messages.operators[one]}
            </option>
          ))}
        </select>
      </div>
      {taken === undefined && isListed && (
        <ValuesList
          column={column}
          chosen={values}
          change={setValues}
          chooseMissing={() => setOperator('missing')}
        />
      )}
      {taken === undefined && !isListed && (
        <ValueInput
          label={messages.value}
          column={{ ...column, type: { kind: 'text' } }}
          value={values.join(', ')}
          change={(text) => setValues(text.split(/\s*,\s*/).filter((one) => one !== ''))}
        />
      )}
      {taken === 2 && isMeasured(column.type) && request?.values !== undefined && (
        <Histogram
          column={column}
          from={first}
          to={second}
          choose={(from, to) => setValues([from, to])}
        />
      )}
      {taken === 2 && (
        <>
          <ValueInput
            label={editors.from}
            column={column}
            value={first}
            change={(from) => setValues([from, second])}
          />
          <ValueInput
            label={editors.to}
            column={column}
            value={second}
            change={(to) => setValues([first, to])}
          />
        </>
      )}
      {taken === 1 &&
        (column.type.kind === 'boolean' || column.type.kind === 'enum' ? (
          <Choices
            inLine
            label={messages.value}
            values={(column.type.kind === 'enum' ? column.type.values : ['true', 'false']).map(
              (value) => ({
                value,
                text: formatText(
                  column.type.kind === 'boolean' ? value === 'true' : value,
                  column,
                  reader,
                ),
              }),
            )}
            chosen={first}
            change={(value) => setValues([value])}
          />
        ) : (
          <ValueInput
            label={messages.value}
            column={column}
            value={first}
            change={(value) => setValues([value])}
          />
        ))}
      <Complaint text={complaint} />
      <FormActions cancel={cancel} />
    </form>
  );
}

/** A condition as text, in the language of the line below the sentence. */
function TextForm({ expression, apply, cancel }: TermFormProps): ReactElement {
  const { table, column, reader } = useModel();
  const [text, setText] = useState(() => (expression ? printExpression(expression) : ''));
  const [complaint, setComplaint] = useState<string>();
  return (
    <form
      className="eph-term eph-form"
      onSubmit={(event) => {
        event.preventDefault();
        const read = readSound(text, table, column);
        setComplaint('problem' in read ? read.problem : undefined);
        if ('expression' in read) apply(read.expression);
      }}
    >
      <textarea
        className="eph-field eph-code"
        dir="ltr"
        rows={2}
        spellCheck={false}
        aria-label={reader.messages.where}
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      <Complaint text={complaint} />
      <FormActions cancel={cancel} />
    </form>
  );
}

function Complaint({ text }: { readonly text: string | undefined }): ReactElement | null {
  if (text === undefined) return null;
  return (
    <p role="alert" className="eph-trouble">
      {text}
    </p>
  );
}

function FormActions({ cancel }: Pick<TermFormProps, 'cancel'>): ReactElement {
  const { editors } = useModel().reader.messages;
  const { messages } = useBuilder();
  return (
    <div className="eph-actions">
      <button type="submit" className="eph-plate">
        {editors.apply}
      </button>
      <button type="button" className="eph-offer" onClick={cancel}>
        {messages.cancel}
      </button>
    </div>
  );
}
