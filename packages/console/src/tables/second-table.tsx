import type { TableSummary } from '@ephoros/core/schema';
import { useAnswer, useTextView, type AddressOf } from '@ephoros/react';
import { useCallback, type ReactElement } from 'react';
import { client } from '../service.ts';
import { useDesk } from '../shell/desk.tsx';
import { DeskTable } from './desk-table.tsx';

interface SecondTableProps {
  /** The table and its view, as the address has them: `locks?sort=name`. */
  readonly text: string;
  readonly put: (text: string | undefined) => void;
  readonly addressOf: AddressOf;
}

/** A second table next to the first one. */
export function SecondTable({ text, put, addressOf }: SecondTableProps): ReactElement {
  const { words } = useDesk();
  const [name = '', search = ''] = split(text);
  return (
    <section className="second-table relative min-h-0 min-w-0 grow basis-0" aria-label={name}>
      <button
        type="button"
        className="absolute end-6 top-0 z-10 cursor-pointer text-sm text-faint hover:text-amber"
        onClick={() => put(undefined)}
      >
        {words.alone}
      </button>
      <DeskTable
        key={name}
        name={name}
        selection={`beside ${name}`}
        addressOf={addressOf}
        {...useTextView(search, (next) => put(next === '' ? name : `${name}?${next}`))}
      />
    </section>
  );
}

function split(text: string): readonly string[] {
  const mark = text.indexOf('?');
  return mark === -1 ? [text] : [text.slice(0, mark), text.slice(mark + 1)];
}

const fetchTables = (signal: AbortSignal): ReturnType<typeof client.tables> =>
  client.tables(signal);

interface SecondTableOfferProps {
  readonly choose: (table: string) => void;
}

/** The tables, one of which is to stand next to. */
export function SecondTableOffer({ choose }: SecondTableOfferProps): ReactElement | null {
  const { words } = useDesk();
  const answer = useAnswer(fetchTables);
  const tables: readonly TableSummary[] = answer.state === 'ready' ? answer.result.tables : [];
  const chosen = useCallback((table: string) => table !== '' && choose(table), [choose]);
  return (
    <select
      className="max-w-28 cursor-pointer max-sm:hidden bg-paper hover:text-amber"
      aria-label={words.chooseSecondTable}
      value=""
      onChange={({ target }) => chosen(target.value)}
    >
      <option value="">{words.secondTable}</option>
      {tables.map(({ name, title }) => (
        <option key={name} value={name}>
          {title}
        </option>
      ))}
    </select>
  );
}
