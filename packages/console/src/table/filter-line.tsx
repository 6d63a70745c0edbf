import type { Problem } from '@ephoros/core/problem';
import { useRef, useState, type ReactElement } from 'react';
import type { View } from './view-state.ts';

/** The filter as text. Enter applies it; what is wrong is marked at its place. */
export function FilterLine({ view, example }: { view: View; example: string }): ReactElement {
  const applied = view.texts.filter ?? '';
  // Typed over the filter in force; another one from elsewhere (the sentence, a header, the
  // browser's history) takes its place.
  const [typed, setTyped] = useState({ over: applied, text: applied });
  const text = typed.over === applied ? typed.text : applied;
  const setText = (next: string): void => setTyped({ over: applied, text: next });
  const field = useRef<HTMLInputElement>(null);
  const [scrolled, setScrolled] = useState(0);
  const problems =
    text === applied ? view.problems.filter(({ parameter }) => parameter === 'filter') : [];
  return (
    <form
      className="mt-1 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        const filter = text.trim() === '' ? undefined : text;
        view.change({ filter, page: undefined, offset: undefined });
      }}
    >
      <div className="flex items-baseline gap-2">
        <label htmlFor="filter" className="font-serif text-faint italic">
          where
        </label>
        <div className="relative grow overflow-hidden pb-1.5">
          <input
            ref={field}
            id="filter"
            className="field w-full px-0 font-mono text-[0.82rem]"
            spellCheck={false}
            autoComplete="off"
            placeholder={example}
            aria-invalid={problems.length > 0}
            aria-describedby={problems.length > 0 ? 'filter-problems' : undefined}
            value={text}
            onChange={({ target }) => setText(target.value)}
            onScroll={({ currentTarget }) => setScrolled(currentTarget.scrollLeft)}
            onKeyDown={({ key }) => {
              if (key === 'Escape') setText(applied);
            }}
          />
          {problems.map((problem, index) => (
            <Mark key={index} problem={problem} scrolled={scrolled} />
          ))}
        </div>
        {text !== applied && (
          <button type="submit" className="offer">
            Apply ⏎
          </button>
        )}
        {text === applied && applied !== '' && (
          <button
            type="button"
            className="offer"
            onClick={() => view.change({ filter: undefined, page: undefined, offset: undefined })}
          >
            Clear
          </button>
        )}
      </div>
      {problems.length > 0 && (
        <ul id="filter-problems" role="alert" className="mt-1 ml-12 text-fault">
          {problems.map(({ message, hint, position = 0 }, index) => (
            <li key={index}>
              <button
                type="button"
                className="cursor-pointer text-left hover:underline"
                onClick={() => {
                  field.current?.focus();
                  const { length = 0 } = problems[index] ?? {};
                  field.current?.setSelectionRange(position, position + length);
                }}
              >
                {message} {hint}
              </button>
            </li>
          ))}
        </ul>
      )}
    </form>
  );
}

/** A line under the place of a problem; the field is monospaced, so `ch` measures it. */
function Mark({ problem, scrolled }: { problem: Problem; scrolled: number }): ReactElement {
  const { position = 0, length = 0 } = problem;
  return (
    <span
      aria-hidden="true"
      data-testid="filter-mark"
      className="pointer-events-none absolute top-0 bottom-1.5 border-b-2 border-fault bg-fault/15 font-mono text-[0.82rem]"
      style={{ left: `calc(${position}ch - ${scrolled}px)`, width: `${Math.max(1, length)}ch` }}
    />
  );
}
