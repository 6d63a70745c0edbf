import { selectedKeys, type Row } from '@ephoros/client';
import { shownNames, type Relationship } from '@ephoros/core/schema';
import { HoverCard } from 'radix-ui';
import { useCallback, useState, type MouseEvent, type ReactElement } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import { formatValue, plainText } from '../format/value.ts';
import { Cell } from '../table/cell.tsx';
import { useAnswer } from '../use-answer.ts';
import type { CardContent } from './card-content.ts';

interface RelatedRowsPanelProps extends CardContent {
  readonly step: Relationship;
  readonly otherKey: string;
}

/** The row that a row refers to, by its name: what it is on hover and focus, and the way to it. */
export function RelatedRowsPanel(props: RelatedRowsPanelProps): ReactElement {
  const { step, otherKey, read, addressOf, go } = props;
  const [open, setOpen] = useState(false);
  const label = read.others(step.table)?.label;
  const named = label === undefined ? null : (read.row[`${step.name}.${label}`] ?? null);
  const href = addressOf?.({ table: step.table, row: otherKey });
  const text = named === null ? otherKey : plainText(named);
  const follow = (event: MouseEvent): void => {
    if (href !== undefined) return;
    event.preventDefault();
    go({ table: step.table, key: otherKey });
  };
  return (
    <HoverCard.Root open={open} onOpenChange={setOpen} openDelay={250} closeDelay={150}>
      <HoverCard.Trigger asChild>
        {href === undefined ? (
          <button type="button" className="eph-related" onClick={follow}>
            {text}
          </button>
        ) : (
          <a className="eph-related" href={href}>
            {text}
          </a>
        )}
      </HoverCard.Trigger>
      {named !== null && <span className="eph-card-key">{otherKey}</span>}
      <HoverCard.Content className="eph-slip" side="bottom" align="start" collisionPadding={12}>
        {open && <RelatedRows {...props} />}
      </HoverCard.Content>
    </HoverCard.Root>
  );
}

/** Columns that a slip has room for. */
const mostColumns = 7;

const span = { start: 0, end: 0 };

function RelatedRows({
  client,
  step,
  otherKey,
  read,
  reader,
  card,
}: RelatedRowsPanelProps): ReactElement {
  const other = read.others(step.table);
  const { table } = step;
  const request = useCallback(
    async (signal: AbortSignal): Promise<Row | undefined> => {
      if (other === undefined) return undefined;
      const columns = shownNames(other).map((name) => ({ name, span }));
      const query = { columns, filter: selectedKeys([otherKey]), limit: 1, total: 'none' as const };
      return (await client.rows(table, query, signal)).rows[0];
    },
    [client, other, table, otherKey],
  );
  const answer = useAnswer(request);
  if (answer.state !== 'ready') {
    return <Unanswered answer={answer} what={reader.messages.loading} />;
  }
  const row = answer.result;
  if (other === undefined || row === undefined) return <p>{card.gone(otherKey)}</p>;
  const known = [...other.columns, ...(other.related ?? [])];
  return (
    <>
      <p className="eph-card-table">{other.title}</p>
      <dl>
        {shownNames(other)
          .flatMap((name) => known.find((column) => column.name === name) ?? [])
          .slice(0, mostColumns)
          .map((column) => (
            <div key={column.name} className="eph-card-field">
              <dt>{column.label}</dt>
              <dd>
                <Cell value={formatValue(row[column.name] ?? null, column, reader)} />
              </dd>
            </div>
          ))}
      </dl>
    </>
  );
}
