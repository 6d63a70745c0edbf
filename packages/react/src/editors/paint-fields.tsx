import { printExpression } from '@ephoros/core/expression';
import { tones, type ColumnDescription, type Tone } from '@ephoros/core/schema';
import type { PaintRule } from '@ephoros/core/view';
import { useState, type ReactElement } from 'react';
import type { LayoutMessages } from '../messages/layout-messages.ts';
import { useModel } from '../parts/table-context.ts';
import { readSound } from './read-filter.ts';

type ToneRule = Extract<PaintRule, { kind: 'tone' }>;
type MeasureRule = Exclude<PaintRule, ToneRule>;

interface ToneFieldsProps {
  /** Undefined of a rule that is to be. */
  readonly rule: ToneRule | undefined;
  readonly messages: LayoutMessages;
  readonly put: (rule: ToneRule) => void;
}

/** When a tone is shown, and where. A condition that cannot be read is reported, and changes nothing. */
export function ToneFields({ rule, messages, put }: ToneFieldsProps): ReactElement {
  const { view, table, shown, column: columnNamed } = useModel();
  const began = rule?.when ?? view.filter;
  const [text, setText] = useState(() => (began === undefined ? '' : printExpression(began)));
  const [tone, setTone] = useState<Tone>(rule?.tone ?? 'note');
  const [column, setColumn] = useState(rule?.column ?? '');
  const [complaint, setComplaint] = useState<string>();
  const apply = (next: { readonly tone?: Tone; readonly column?: string }): void => {
    const read = readSound(text, table, columnNamed);
    setComplaint('problem' in read ? read.problem : undefined);
    if ('problem' in read) return;
    const target = next.column ?? column;
    put({
      kind: 'tone',
      when: read.expression,
      tone: next.tone ?? tone,
      ...(target === '' ? {} : { column: target }),
    });
  };
  // What is there already follows each choice; a new rule waits until its condition was given.
  const then = (next: { readonly tone?: Tone; readonly column?: string }): void => {
    if (rule !== undefined) apply(next);
  };
  return (
    <form
      className="eph-in-line"
      onSubmit={(event) => {
        event.preventDefault();
        apply({});
      }}
    >
      <select
        className="eph-field"
        aria-label={messages.tone}
        data-tone={tone}
        value={tone}
        onChange={({ target }) => {
          setTone(target.value as Tone);
          then({ tone: target.value as Tone });
        }}
      >
        {tones.map((one) => (
          <option key={one} value={one}>
            {messages.tones[one]}
          </option>
        ))}
      </select>
      <select
        className="eph-field"
        aria-label={messages.target}
        value={column}
        onChange={({ target }) => {
          setColumn(target.value);
          then({ column: target.value });
        }}
      >
        <option value="">{messages.whole}</option>
        {[...new Set([...shown, ...(column === '' ? [] : [column])])].map((name) => (
          <option key={name} value={name}>
            {columnNamed(name)?.label ?? name}
          </option>
        ))}
      </select>
      <input
        className="eph-field eph-code"
        dir="ltr"
        aria-label={messages.when}
        placeholder={messages.when}
        autoFocus={rule === undefined}
        spellCheck={false}
        value={text}
        onChange={({ target }) => setText(target.value)}
        onBlur={() => {
          if (rule !== undefined && text !== printExpression(rule.when)) apply({});
        }}
      />
      {rule === undefined && (
        <button type="submit" className="eph-offer">
          {messages.add}
        </button>
      )}
      {complaint !== undefined && (
        <p role="alert" className="eph-trouble">
          {complaint}
        </p>
      )}
    </form>
  );
}

interface MeasureFieldsProps {
  readonly rule: MeasureRule;
  readonly messages: LayoutMessages;
  /** Columns of numbers. */
  readonly numbers: readonly ColumnDescription[];
  readonly put: (rule: MeasureRule) => void;
}

/** Whose numbers carry a bar or a tint, and where the scale begins and ends. */
export function MeasureFields({ rule, messages, numbers, put }: MeasureFieldsProps): ReactElement {
  const { kind, column } = rule;
  const { column: columnNamed } = useModel();
  const label = columnNamed(column)?.label ?? column;
  return (
    <div className="eph-in-line">
      <span>{kind === 'bar' ? messages.barOf('') : messages.scaleOf('')}</span>
      <select
        className="eph-field"
        aria-label={kind === 'bar' ? messages.barOf(label) : messages.scaleOf(label)}
        value={column}
        onChange={({ target }) => put({ kind, column: target.value })}
      >
        {[...new Set([...numbers.map(({ name }) => name), column])].map((name) => (
          <option key={name} value={name}>
            {columnNamed(name)?.label ?? name}
          </option>
        ))}
      </select>
      {(['from', 'to'] as const).map((end) => (
        <input
          key={end}
          className="eph-field eph-short"
          type="number"
          step="any"
          aria-label={messages[end]}
          placeholder={`${messages[end]}: ${messages.ofShown}`}
          value={rule[end] ?? ''}
          onChange={({ target }) => {
            const { [end]: _before, ...rest } = rule;
            const number = target.valueAsNumber;
            put(Number.isNaN(number) ? rest : { ...rest, [end]: number });
          }}
        />
      ))}
    </div>
  );
}
