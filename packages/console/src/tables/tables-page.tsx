import type { TableSummary } from '@ephoros/core/schema';
import { FailureNote, useAnswer } from '@ephoros/react';
import { useEffect, useState, type ReactElement } from 'react';
import { Link } from 'wouter';
import { client } from '../service.ts';
import { useExactCounts } from './exact-counts.ts';
import { useDesk } from '../shell/desk.tsx';
import { useReader } from '../sign-in/reader.ts';
import type { Words } from '../words/words.ts';
import { ConsoleHeader } from '../shell/console-header.tsx';
import { useFavourites, useRecent } from './browser-lists.ts';

const fetchAll = (signal: AbortSignal): ReturnType<typeof client.tables> => client.tables(signal);

/** The contents page: every published table. */
export function TablesPage(): ReactElement {
  const { words } = useDesk();
  const answer = useAnswer(fetchAll);
  const title = answer.state === 'ready' ? answer.result.title : 'Ephoros';
  useEffect(() => {
    document.title = title;
  }, [title]);
  return (
    <>
      <ConsoleHeader />
      <main className="mx-auto max-w-3xl px-6 pt-14 pb-24">
        <h1 className="font-serif text-5xl font-semibold tracking-tight">{title}</h1>
        {answer.state === 'loading' && <p className="mt-6 text-faint">{words.reading}</p>}
        {answer.state === 'failed' && (
          <div className="mt-8">
            <FailureNote error={answer.error} retry={answer.retry} />
          </div>
        )}
        {answer.state === 'ready' && <Contents tables={answer.result.tables} />}
      </main>
    </>
  );
}

/** Fewer tables are visible at once. */
const worthFinding = 8;

function Contents({ tables }: { tables: readonly TableSummary[] }): ReactElement {
  const { words, reader } = useDesk();
  const { caller } = useReader();
  const [sought, setSought] = useState('');
  const observed = useRecent();
  const [favourites, turn] = useFavourites();
  const counts = useExactCounts(tables);
  if (tables.length === 0) {
    const name = caller?.title ?? caller?.name;
    return (
      <p className="mt-8 font-serif text-xl">
        {name == null ? words.noTables : words.nothingForRoles(name)}
      </p>
    );
  }
  const found = tables.filter((table) => isFound(table, sought));
  const first = found.filter(({ name }) => favourites.includes(name));
  const others = found.filter(({ name }) => !favourites.includes(name));
  const lately = observed.flatMap((name) => tables.find((one) => one.name === name) ?? []);
  return (
    <>
      {tables.length > worthFinding && (
        <input
          type="search"
          className="field mt-8 w-full bg-transparent py-1 text-lg"
          placeholder={words.find(tables.length.toLocaleString(reader.locale))}
          aria-label={words.findTable}
          value={sought}
          onChange={({ target }) => setSought(target.value)}
        />
      )}
      {sought === '' && lately.length > 0 && (
        <p className="mt-6 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <span className="font-serif text-faint italic">{words.recent}</span>
          {lately.map(({ name, title }) => (
            <Link key={name} href={addressOf(name)} className="hover:text-amber">
              {title}
            </Link>
          ))}
        </p>
      )}
      {sought === '' && caller?.may.views !== false && <SavedViews tables={tables} />}
      {found.length === 0 && <p className="mt-8 text-faint">{words.noSuchTable}</p>}
      <ol className="mt-6">
        {[...first, ...others].map((table) => (
          <Line
            key={table.name}
            table={table}
            count={counts.get(table.name)}
            favourite={favourites.includes(table.name)}
            turn={() => turn(table.name)}
          />
        ))}
      </ol>
    </>
  );
}

interface LineProps {
  readonly table: TableSummary;
  /** The exact number of rows, if it is known. */
  readonly count: number | undefined;
  readonly favourite: boolean;
  /** Puts it among the reader's favourites, or takes it from them. */
  readonly turn: () => void;
}

function Line({ table, count, favourite, turn }: LineProps): ReactElement {
  const { words, reader } = useDesk();
  return (
    <li className="group flex items-baseline border-b border-rule">
      <button
        type="button"
        className={`w-7 shrink-0 cursor-pointer text-start hover:text-amber ${favourite ? 'text-amber' : 'text-faint'}`}
        aria-pressed={favourite}
        aria-label={words.first(table.title)}
        title={favourite ? words.notFirst : words.showFirst}
        onClick={turn}
      >
        {favourite ? '❖' : '◇'}
      </button>
      <Link
        href={addressOf(table.name)}
        className="flex min-w-0 grow items-baseline gap-3 py-3 hover:text-amber"
      >
        <span className="font-serif text-2xl">{table.title}</span>
        {table.comment !== undefined && (
          <span className="min-w-0 truncate text-faint italic" title={table.comment}>
            {table.comment}
          </span>
        )}
        <span className="grow" />
        <span className="shrink-0 text-faint tabular-nums group-hover:text-amber">
          {count === undefined
            ? size(table, words, reader.locale)
            : words.rows(count, count.toLocaleString(reader.locale))}
        </span>
      </Link>
    </li>
  );
}

/** Saved views that are visible at once. */
const mostViews = 8;

const fetchViews = (signal: AbortSignal): ReturnType<typeof client.views.list> =>
  client.views.list({ limit: mostViews }, signal);

/** The first of the saved views; nothing where there are none, or nothing is stored. */
function SavedViews({ tables }: { tables: readonly TableSummary[] }): ReactElement | null {
  const { words } = useDesk();
  const answer = useAnswer(fetchViews);
  if (answer.state !== 'ready' || answer.result.views.length === 0) return null;
  const { views, next } = answer.result;
  const titleOf = (name: string): string => tables.find((one) => one.name === name)?.title ?? name;
  return (
    <p className="mt-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <span className="font-serif text-faint italic">{words.views}</span>
      {views.map(({ id, name, note, table }) => (
        <Link key={id} href={`/views/${id}`} className="hover:text-amber" title={note}>
          {name} <span className="text-faint">{titleOf(table)}</span>
        </Link>
      ))}
      {next !== null && <span className="text-faint">{words.moreViews}</span>}
    </p>
  );
}

function addressOf(table: string): string {
  return `/tables/${encodeURIComponent(table)}`;
}

/** Whether each word that is sought stands in the name, the title or what is stated about a table. */
function isFound({ name, title, comment = '' }: TableSummary, sought: string): boolean {
  const text = `${name} ${title} ${comment}`.toLocaleLowerCase();
  return sought
    .toLocaleLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

function size({ estimatedRows, kind }: TableSummary, words: Words, locale: string): string {
  if (estimatedRows === null) return kind === 'view' ? words.aView : words.notCounted;
  return words.about(estimatedRows.toLocaleString(locale));
}
