import type { ColumnDescription } from '@ephoros/core/schema';
import { changed, appearanceParts, moved } from '@ephoros/core/view';
import { useState, type ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { columnTree, type ColumnBranch } from './column-tree.ts';
import { Tick } from './choices.tsx';
import { Finder } from './finder.tsx';
import { ShownColumns } from './shown-columns.tsx';
import { Unanswered } from './unanswered.tsx';

/** Which columns are shown, in which order, at which side; those of related rows, too. */
export function ColumnsEditor(): ReactElement {
  const { columns, shown, change, fit, addable, describe, reader } = useModel();
  const { messages } = reader;
  const texts = useAnswer(messages.layout);
  const around = useAnswer(addable ? describe : undefined);
  const [sought, setSought] = useState('');
  if (texts.state !== 'ready') return <Unanswered answer={texts} what={messages.loading} />;
  const span = { start: 0, end: 0 };
  const show = (names: readonly string[]): void =>
    change({ columns: names.map((name) => ({ name, span })) });
  /** A column that comes stands behind the one that it follows among all. */
  const withColumn = (name: string): readonly string[] => {
    const place = columns.findIndex((one) => one.name === name);
    if (place === -1) return [...shown, name];
    const last = columns.slice(0, place).findLast((one) => shown.includes(one.name));
    const at = last === undefined ? 0 : shown.indexOf(last.name) + 1;
    return [...shown.slice(0, at), name, ...shown.slice(at)];
  };
  const parts = sought.toLowerCase().split(/\s+/);
  const fits = ({ name, label }: ColumnDescription): boolean =>
    parts.every((word) => `${label} ${name}`.toLowerCase().includes(word));
  const hidden = columns.filter((one) => !shown.includes(one.name) && fits(one));
  const own = new Set(columns.map(({ name }) => name));
  const related =
    around.state === 'ready'
      ? around.result.filter((one) => one.name.includes('.') && !own.has(one.name) && fits(one))
      : [];
  const toggle = (name: string) => (checked: boolean) => {
    if (checked) show(withColumn(name));
    else if (shown.length > 1) show(shown.filter((one) => one !== name));
  };
  const words = texts.result;
  return (
    <div className="eph-columns-sheet">
      <Finder label={messages.editors.findColumn} text={sought} change={setSought} />
      <h2 className="eph-list-title">{words.shown}</h2>
      <ShownColumns
        fits={fits}
        messages={words}
        move={(from, to) => show(moved(shown, from, to))}
        hide={(name) => toggle(name)(false)}
      />
      {hidden.length > 0 && <h2 className="eph-list-title">{words.others}</h2>}
      <ul className="eph-plain-list">
        {hidden.map(({ name, label }) => (
          <li key={name}>
            <Tick checked={false} change={toggle(name)}>
              {label}
            </Tick>
          </li>
        ))}
      </ul>
      {related.length > 0 && <h2 className="eph-list-title">{words.related}</h2>}
      <Branches
        branches={columnTree(related)}
        open={sought.trim() !== ''}
        shown={shown}
        toggle={toggle}
      />
      {addable && describe !== undefined && around.state !== 'ready' && (
        <Unanswered answer={around} what={messages.loading} />
      )}
      <div className="eph-actions">
        <button type="button" className="eph-offer" onClick={() => fit()}>
          {words.fitAll}
        </button>
        <ResetAppearance text={words.reset} />
      </div>
    </div>
  );
}

/** Puts back all of a view that is its look alone. */
export function ResetAppearance({ text }: { readonly text: string }): ReactElement {
  const { view, change } = useModel();
  const isReset = appearanceParts.every((part) => view[part] === undefined);
  return (
    <button
      type="button"
      className="eph-offer"
      disabled={isReset}
      onClick={() =>
        change((last) =>
          changed(last, Object.fromEntries(appearanceParts.map((part) => [part, undefined]))),
        )
      }
    >
      {text}
    </button>
  );
}

interface BranchesProps {
  readonly branches: readonly ColumnBranch[];
  /** Whether all of them are, because something is sought. */
  readonly open: boolean;
  readonly shown: readonly string[];
  readonly toggle: (name: string) => (checked: boolean) => void;
}

/** Columns of related rows, under the references that lead to them. */
function Branches({ branches, open, shown, toggle }: BranchesProps): ReactElement | null {
  if (branches.length === 0) return null;
  return (
    <ul className="eph-plain-list">
      {branches.map((branch) => (
        <li key={branch.path}>
          <details className="eph-section" open={open || undefined}>
            <summary>{branch.label}</summary>
            <div className="eph-branch">
              <ul className="eph-plain-list">
                {branch.columns.map(({ name, label }) => (
                  <li key={name}>
                    <Tick checked={shown.includes(name)} change={toggle(name)}>
                      {label}
                    </Tick>
                  </li>
                ))}
              </ul>
              <Branches branches={branch.branches} open={open} shown={shown} toggle={toggle} />
            </div>
          </details>
        </li>
      ))}
    </ul>
  );
}
