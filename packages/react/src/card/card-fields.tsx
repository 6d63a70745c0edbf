import {
  sectionsOf,
  toOne,
  typeName,
  type ColumnDescription,
  type Relationship,
  type Section,
} from '@ephoros/core/schema';
import { useId, useState, type ReactElement } from 'react';
import type { Row, Value } from '@ephoros/client';
import { EditedCell, referenceOf } from '../editing/index.ts';
import { formatValue, plainText } from '../format/value.ts';
import { Cell } from '../table/cell.tsx';
import type { CardContent } from './card-content.ts';
import { useCopied } from '../use-copied.ts';
import { referredKey } from './read-row.ts';
import { RelatedRowsPanel } from './related-rows-panel.tsx';

/** All columns of a row in their sections. */
export function CardFields(content: CardContent): ReactElement {
  const { read, card } = content;
  const [raw, setRaw] = useState(false);
  const [message, copyText] = useCopied();
  const copy = (column: ColumnDescription): void => {
    const text = plainText(read.row[column.name] ?? null);
    copyText(text, card.copied(column.label), card.notCopied);
  };
  return (
    <>
      {sectionsOf(read.table).map((section) => (
        <FieldSection
          key={'kind' in section ? section.kind : section.title}
          {...content}
          section={section}
          raw={raw}
          copy={copy}
        />
      ))}
      <p className="eph-card-actions">
        <button type="button" className="eph-offer" aria-pressed={raw} onClick={() => setRaw(!raw)}>
          {card.raw}
        </button>
        {content.editing !== undefined && read.table.changes?.remove === true && (
          <RemoveButton {...content.editing} row={read.row} />
        )}
        <span role="status" className="eph-aside">
          {message}
        </span>
      </p>
    </>
  );
}

/** Removes the row once that is saved, or takes that back. */
function RemoveButton({
  drafts,
  messages,
  row,
}: NonNullable<CardContent['editing']> & { readonly row: Row }): ReactElement {
  const isStruck = drafts.of(row)?.kind === 'struck';
  return (
    <button type="button" className="eph-offer" onClick={() => drafts.strike([row])}>
      {isStruck ? messages.restoreRow : messages.removeRows(1, '1')}
    </button>
  );
}

interface FieldSectionProps extends CardContent {
  readonly section: Section;
  readonly raw: boolean;
  readonly copy: (column: ColumnDescription) => void;
}

function FieldSection({ section, ...props }: FieldSectionProps): ReactElement {
  const { card } = props;
  const id = useId();
  return (
    <section className="eph-card-section" aria-labelledby={id}>
      <h3 id={id}>{'kind' in section ? card.sections[section.kind] : section.title}</h3>
      <dl>
        {section.columns.map((column) => (
          <Field key={column.name} {...props} column={column} />
        ))}
      </dl>
    </section>
  );
}

interface FieldProps extends Omit<FieldSectionProps, 'section'> {
  readonly column: ColumnDescription;
}

function Field({ column, raw, copy, ...content }: FieldProps): ReactElement {
  const { read, reader, card, editing } = content;
  const [changing, setChanging] = useState(false);
  const { drafts, messages, state } = editing ?? {};
  const draft = drafts?.of(read.row);
  const row = drafts === undefined ? read.row : drafts.shown(read.row);
  const value = row[column.name] ?? null;
  const drafted = draft?.kind === 'changed' && Object.hasOwn(draft.values, column.name);
  const wrong = state?.problems.get(draft?.id ?? '')?.filter((one) => one.column === column.name);
  if (changing && drafts !== undefined && messages !== undefined) {
    const cancel = (): void => setChanging(false);
    const put = (name: string, next: Value, labels?: Row): void => {
      drafts.edit([{ row: read.row, column: name, value: next, ...(labels && { labels }) }]);
    };
    return (
      <div className="eph-card-field">
        <dt>{column.label}</dt>
        <dd>
          <EditedCell
            written={column}
            row={row}
            reference={referenceOf(column, read.table, content.client)}
            reader={reader}
            messages={messages}
            put={put}
            end={cancel}
          />
        </dd>
      </div>
    );
  }
  const step = referenceAt(column, read.table.relationships);
  const key = step && !drafted ? referredKey(step, read.row, read.others) : undefined;
  return (
    <div className="eph-card-field" data-draft={drafted ? 'changed' : undefined}>
      <dt>{column.label}</dt>
      <dd>
        {drafted && (
          <del className="eph-before">
            {formatValue(read.row[column.name] ?? null, column, reader).text}
          </del>
        )}
        {step !== undefined && key !== undefined ? (
          <RelatedRowsPanel {...content} step={step} otherKey={key} />
        ) : (
          <Cell value={formatValue(value, column, reader)} />
        )}
        <button
          type="button"
          className="eph-copy"
          aria-label={card.copy(column.label)}
          onClick={() => copy(column)}
        >
          {card.copyShort}
        </button>
        {editing !== undefined && column.writing?.change === true && draft?.kind !== 'struck' && (
          <button
            type="button"
            className="eph-copy"
            aria-label={editing.messages.change(column.label)}
            onClick={() => setChanging(true)}
          >
            {editing.messages.changeShort}
          </button>
        )}
        {wrong?.map(({ code, message }) => (
          <span key={code} role="alert" className="eph-trouble">
            {reader.messages.translate(message)}
          </span>
        ))}
        {raw && (
          <span className="eph-raw">
            <code>{value === null ? 'null' : plainText(value)}</code>
            <span>
              {column.name} · {typeName(column.type)}
            </span>
          </span>
        )}
      </dd>
    </div>
  );
}

/** The foreign key that a column reports: it alone, or the last of several. */
function referenceAt(
  { name, shownAs }: ColumnDescription,
  relationships: readonly Relationship[],
): Relationship | undefined {
  const steps = toOne({ relationships });
  const named = steps.find((step) => shownAs?.startsWith(`${step.name}.`));
  return named ?? steps.find(({ columns }) => columns.at(-1) === name);
}
