import { parseKey } from '@ephoros/core/schema';
import type { Drafts } from '@ephoros/client/drafts';
import { catalogOf, type AnyTables, type NameOf, type TableSet } from '@ephoros/client';
import {
  useEffect,
  useId,
  useMemo,
  useRef,
  useState,
  type ReactElement,
  type ReactNode,
} from 'react';
import { plainText, type FullReader } from '../format/value.ts';
import { english } from '../messages/english.ts';
import type { Messages } from '../messages/messages.ts';
import { TableFrame } from '../parts/table-frame.tsx';
import type { RequestClient } from '../records/request-client.ts';
import { useDraftsState } from '../records/use-drafts.ts';
import { ownTimeZone } from '../records/use-records.ts';
import { useAnswer } from '../use-answer.ts';
import { useStable } from '../use-stable.ts';
import { Unanswered } from '../editors/unanswered.tsx';
import type { AddressOf } from './address-of.ts';
import type { CardContent } from './card-content.ts';
import type { OpenedRow } from './opened-row.ts';
import { CardFields } from './card-fields.tsx';
import { readRow, type ReadRow } from './read-row.ts';
import { ReferringRows } from './referring-rows.tsx';
import { RowHistory } from './row-history.tsx';

interface CardWays {
  /** Where the page shows other rows; without it they are shown in the card itself. */
  readonly addressOf?: AddressOf | undefined;
  readonly onClose?: (() => void) | undefined;
  readonly onPrevious?: (() => void) | undefined;
  readonly onNext?: (() => void) | undefined;
  /** Draws the row otherwise, below the card's head. */
  readonly children?: ((opened: OpenedRow) => ReactNode) | undefined;
}

export interface RowCardProps<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
> extends CardWays {
  readonly client: RequestClient<Tables>;
  readonly table: Name;
  /** The key, as the row's address has it: `17`; several parts by commas, each percent-encoded. */
  readonly rowKey: string;
  /** English by default. */
  readonly messages?: Messages;
  readonly locale?: string;
  readonly timeZone?: string;
}

/**
 * One row on a card: all its columns in sections, the rows that it refers to and those that refer
 * to it. Styled by `@ephoros/react/table.css`.
 */
export function RowCard<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
>(given: RowCardProps<Tables, Name>): ReactElement {
  // Types of the tables are a promise of the program's: nothing at run time depends on them.
  const props = given as unknown as RowCardProps;
  const { messages = english, locale = messages.language } = props;
  const { timeZone = ownTimeZone } = props;
  const reader = useMemo(() => ({ locale, timeZone, messages }), [locale, timeZone, messages]);
  return (
    <TableFrame messages={messages}>
      <Card {...props} reader={reader} />
    </TableFrame>
  );
}

interface CardProps extends CardWays {
  readonly client: RequestClient;
  readonly table: string;
  readonly rowKey: string;
  readonly reader: FullReader;
  /** What of the table is changed; undefined where nothing can be. */
  readonly drafts?: Drafts | undefined;
  /** Requests everything again. */
  readonly refresh?: (() => void) | undefined;
  /** How often everything was requested again. */
  readonly refreshes?: number | undefined;
}

interface Shown {
  readonly table: string;
  readonly key: string;
}

/** The card within a table's frame. */
export function Card(props: CardProps): ReactElement {
  const { table, rowKey, reader, addressOf, onClose, onPrevious, onNext } = props;
  const client = useStable('the client', props.client);
  const { messages } = reader;
  const texts = useAnswer(messages.card);
  // Rows that were come to from this one, where the page has no address for them.
  const [way, setWay] = useState<{ readonly from: string; readonly rows: readonly Shown[] }>();
  const begun = JSON.stringify([table, rowKey]);
  const rows = way?.from === begun ? way.rows : [];
  const shown = rows.at(-1) ?? { table, key: rowKey };
  const { table: name, key } = shown;
  const { drafts, refreshes = 0, refresh } = props;
  const query = useMemo(
    () =>
      // Requested again, the same row may be another one.
      refreshes < 0 ? undefined : (signal: AbortSignal) => readRow(client, name, key, signal),
    [client, name, key, refreshes],
  );
  const state = useDraftsState(drafts);
  const words = useAnswer(drafts === undefined ? undefined : messages.editing);
  const answer = useAnswer(query);
  const [last, setLast] = useState<ReadRow>();
  const [isOpen, setOpen] = useState(false);
  if (answer.state === 'ready' && answer.result !== last) setLast(answer.result);
  const frame = useRef<HTMLElement>(null);
  const id = useId();
  const there = texts.state === 'ready';
  useEffect(() => frame.current?.focus({ preventScroll: true }), [there]);
  const read = answer.state === 'ready' ? answer.result : undefined;
  const title = catalogOf(client).known(name)?.title ?? name;
  const go = (to: Shown): void => setWay({ from: begun, rows: [...rows, to] });
  const back =
    rows.length === 0 ? undefined : () => setWay({ from: begun, rows: rows.slice(0, -1) });
  if (texts.state !== 'ready') return <Unanswered answer={texts} what={messages.loading} />;
  const card = texts.result;
  const about = (there: CardContent['read']) => ({
    client,
    read: there,
    reader,
    card,
    addressOf,
    go,
    refresh: () => refresh?.(),
    history: { isOpen, setOpen },
    editing:
      drafts?.table.name === name && state !== undefined && words.state === 'ready'
        ? { drafts, state, messages: words.result }
        : undefined,
  });
  return (
    <section
      ref={frame}
      className="eph-card"
      role="dialog"
      aria-labelledby={id}
      tabIndex={-1}
      onKeyDown={(event) => {
        if (event.key !== 'Escape' || event.defaultPrevented) return;
        event.preventDefault();
        onClose?.();
      }}
    >
      <header className="eph-card-head">
        <div className="eph-card-ways">
          {back !== undefined && <WayButton text={card.back} go={back} />}
          <span className="eph-card-table">{title}</span>
          {rows.length === 0 && (onPrevious !== undefined || onNext !== undefined) && (
            <>
              <WayButton text={card.previous} go={onPrevious} />
              <WayButton text={card.next} go={onNext} />
            </>
          )}
          {onClose !== undefined && <WayButton text={card.close} go={onClose} />}
        </div>
        <h2 id={id} className="eph-card-title">
          {titleOf(read ?? (last?.table.name === name ? last : undefined), key)}
        </h2>
      </header>
      {answer.state !== 'ready' && <Unanswered answer={answer} what={messages.loading} />}
      {read !== undefined && read.row === undefined && (
        <p role="status" className="eph-trouble">
          {card.gone(key)}
        </p>
      )}
      {read?.row !== undefined &&
        (props.children !== undefined && rows.length === 0 ? (
          props.children({
            table: read.table,
            key,
            row: read.row,
            close: onClose,
            previous: onPrevious,
            next: onNext,
          })
        ) : (
          <div key={`${name} ${key}`} className="eph-card-body">
            <CardFields {...about({ ...read, row: read.row })} />
            <ReferringRows {...about({ ...read, row: read.row })} />
            <RowHistory {...about({ ...read, row: read.row })} />
          </div>
        ))}
    </section>
  );
}

interface WayButtonProps {
  readonly text: string;
  readonly go: (() => void) | undefined;
}

/** A way on from the card; one that leads nowhere keeps the keyboard, which it would lose disabled. */
function WayButton({ text, go }: WayButtonProps): ReactElement {
  return (
    <button type="button" className="eph-offer" aria-disabled={go === undefined} onClick={go}>
      {text}
    </button>
  );
}

/** What the row is called: by its label, else by its key. */
function titleOf(read: ReadRow | undefined, key: string): string {
  const label = read?.table.label;
  const value = label === undefined ? null : (read?.row?.[label] ?? null);
  return value === null ? (parseKey(key) ?? [key]).join(', ') : plainText(value);
}
