import { printExpression } from '@ephoros/core/expression';
import type { Problem } from '@ephoros/core/problem';
import { useEffect, useId, useRef, useState, type ReactElement } from 'react';
import { noteCondition } from '../state/recent.ts';
import { editors } from './loaded.ts';
import { Pop } from './pop.tsx';
import { useModel } from './table-context.ts';

/** The condition as text. Enter applies it; what is wrong is marked at its place. */
export function ConditionLine(): ReactElement {
  const { view, change, texts, problems, reader, table } = useModel();
  const { messages } = reader;
  const id = useId();
  const example = useExample();
  // What could not be read stands as it was written.
  const applied = view.filter === undefined ? (texts?.filter ?? '') : printExpression(view.filter);
  // Typed over the filter in force; another one from elsewhere (the sentence, a header, the
  // browser's history) takes its place.
  const [typed, setTyped] = useState<Typed>({ over: applied, text: applied, problems: [] });
  const isOver = typed.over === applied;
  // Nor does what was typed come back with the filter that it was typed over.
  if (!isOver) setTyped({ over: applied, text: applied, problems: [] });
  const { text, problems: own } = isOver ? typed : { text: applied, problems: [] };
  const setText = (next: string): void => setTyped({ over: applied, text: next, problems: [] });
  const field = useRef<HTMLInputElement>(null);
  const [scrolled, setScrolled] = useState(0);
  const { name } = table;
  const isRefused = problems.length > 0;
  const now = view.filter === undefined || isRefused ? '' : applied;
  useEffect(() => noteCondition(name, now), [name, now]);
  const ofFilter = problems.filter(({ parameter }) => parameter === 'filter');
  const shownProblems = own.length > 0 ? own : text === applied ? ofFilter : [];
  const apply = async (): Promise<void> => {
    if (text.trim() === '') {
      change({ filter: undefined, place: undefined }, { mends: ['filter'] });
      return;
    }
    try {
      const { readFilter } = await editors.request();
      const read = readFilter(text);
      if ('problems' in read) setTyped({ over: applied, text, problems: read.problems });
      else {
        // Written as it is stored, it may be the one in force.
        setText(printExpression(read.expression));
        change({ filter: read.expression, place: undefined }, { mends: ['filter'] });
      }
    } catch {
      setTyped({ over: applied, text, problems: [{ message: messages.notShown }] });
    }
  };
  return (
    <form
      className="eph-where"
      onSubmit={(event) => {
        event.preventDefault();
        void apply();
      }}
    >
      <div className="eph-where-line">
        <label htmlFor={id}>{messages.where}</label>
        <div className="eph-where-field">
          <input
            ref={field}
            id={id}
            className="eph-field eph-code"
            dir="ltr"
            spellCheck={false}
            autoComplete="off"
            placeholder={example}
            aria-invalid={shownProblems.length > 0}
            aria-describedby={shownProblems.length > 0 ? `${id} problems` : undefined}
            value={text}
            onChange={({ target }) => setText(target.value)}
            onScroll={({ currentTarget }) => setScrolled(currentTarget.scrollLeft)}
            onKeyDown={({ key }) => {
              if (key === 'Escape') setText(applied);
            }}
          />
          {shownProblems.map((problem, index) => (
            <Mark key={index} problem={problem} scrolled={scrolled} />
          ))}
        </div>
        <Pop className="eph-offer" text={messages.build} label={messages.build}>
          {({ ConditionBuilder }, close) => <ConditionBuilder done={close} />}
        </Pop>
        {text !== applied && (
          <button type="submit" className="eph-offer">
            {messages.apply} ⏎
          </button>
        )}
        {text === applied && applied !== '' && (
          <button
            type="button"
            className="eph-offer"
            onClick={() => change({ filter: undefined, place: undefined }, { mends: ['filter'] })}
          >
            {messages.clear}
          </button>
        )}
      </div>
      {shownProblems.length > 0 && (
        <div id={`${id} problems`} role="alert">
          <ul className="eph-problems">
            {shownProblems.map(({ message, hint, position = 0, length = 0 }, index) => (
              <li key={index}>
                <button
                  type="button"
                  onClick={() => {
                    field.current?.focus();
                    field.current?.setSelectionRange(position, position + length);
                  }}
                >
                  {messages.translate(message)} {messages.translate(hint ?? '')}
                </button>
              </li>
            ))}
          </ul>
        </div>
      )}
    </form>
  );
}

interface Typed {
  /** The condition in force while it was typed. */
  readonly over: string;
  readonly text: string;
  /** Why it could not be read. */
  readonly problems: readonly ShownProblem[];
}

/** A problem, with its place where it has one. */
type ShownProblem = Omit<Problem, 'code'>;

/** A line under the place of a problem; the field is monospaced, so `ch` measures it. */
function Mark({ problem, scrolled }: { problem: ShownProblem; scrolled: number }): ReactElement {
  const { position = 0, length = 0 } = problem;
  return (
    <span
      aria-hidden="true"
      data-testid="filter-mark"
      className="eph-code eph-where-mark"
      style={{ left: `calc(${position}ch - ${scrolled}px)`, width: `${Math.max(1, length)}ch` }}
    />
  );
}

/** A condition that fits the table, to show how one is written. */
function useExample(): string {
  const { columns } = useModel().table;
  const choice = columns.find(({ type }) => type.kind === 'enum');
  const amount = columns.find(({ type }) => type.kind === 'numeric');
  const word = columns.find(({ type }) => type.kind === 'text');
  const terms = [
    choice?.type.kind === 'enum'
      ? `${choice.name} = '${choice.type.values.at(-1) ?? ''}'`
      : undefined,
    amount && `${amount.name} > 1.5`,
    choice ? undefined : word && `${word.name} LIKE 'A%'`,
  ];
  const example = terms.filter((term) => term !== undefined).join(' AND ');
  const [first] = columns;
  return example || (first === undefined ? '' : `${first.name} = 1`);
}
