import { keyParts, shownNames, type TableDescription } from '@ephoros/core/schema';
import { and, parseExpression, type Expression } from '@ephoros/core/expression';
import { changed, appearanceParts, queryOf, saveView, type View } from '@ephoros/core/view';
import { Dialog, Tabs } from 'radix-ui';
import { useEffect, useState, type ReactElement } from 'react';
import type { Change, Row } from '@ephoros/client';
import { useDesk } from '../shell/desk.tsx';
import { DialogSheet } from '../shell/dialog.tsx';
import { changeSpellings } from './change-spellings.ts';
import type { Spelling } from './spelling.ts';
import { spellings, type Connected } from './spellings.ts';

interface ConnectProps {
  readonly view: View;
  readonly table: TableDescription;
  /** What waits to be saved. */
  readonly changes: readonly Change[];
  /** A row of the table, for an example of a change. */
  readonly exampleRow: () => Promise<Row | undefined>;
}

/** How to ask for what is on the screen from elsewhere: as a request, and as code. */
export function Connect(props: ConnectProps): ReactElement {
  const { words } = useDesk();
  return (
    <Dialog.Root>
      <Dialog.Trigger className="cursor-pointer hover:text-amber">{words.connect}</Dialog.Trigger>
      <DialogSheet title={words.connectTitle} width="w-[min(56rem,94vw)]">
        <Ways {...props} />
      </DialogSheet>
    </Dialog.Root>
  );
}

/** The question on the screen, or what is changed. */
function Ways(props: ConnectProps): ReactElement {
  const { view, table } = props;
  const { words } = useDesk();
  const [changing, setChanging] = useState(false);
  const wanted = changed(view, { filter: filterOf(view, table) });
  const query = spellings({
    origin: window.location.origin,
    table: table.name,
    query: { ...queryOf(wanted), ...(view.place && { place: view.place }) },
    columns: view.columns?.map(({ name }) => name) ?? shownNames(table),
    reading: view.reading ?? 'pages',
    appearance: lookOf(view),
  });
  if (table.changes === undefined) return <Spellings all={query} />;
  return (
    <>
      <p role="group" aria-label={words.what} className="mt-2 flex gap-4 text-sm">
        {[false, true].map((one) => (
          <button
            key={String(one)}
            type="button"
            className="offer"
            aria-pressed={changing === one}
            onClick={() => setChanging(one)}
          >
            {one ? words.change : words.query}
          </button>
        ))}
      </p>
      {changing ? <ChangeWays {...props} /> : <Spellings all={query} />}
    </>
  );
}

/** The condition on the screen: what the table begins with and joins to it is a part of that. */
function filterOf({ filter }: View, { begin, fixed }: TableDescription): Expression | undefined {
  const read = (text: string | undefined): readonly Expression[] => {
    const parsed = text === undefined ? undefined : parseExpression(text);
    return parsed !== undefined && 'expression' in parsed ? [parsed.expression] : [];
  };
  const isNone = begin !== undefined && filter?.kind === 'boolean' && filter.value;
  const own = isNone ? [] : filter === undefined ? read(begin) : [filter];
  return and([...read(fixed), ...own]);
}

/** What of a view is its look, as it is saved; undefined where that is as usual. */
function lookOf(view: View): Connected['appearance'] {
  const { chart, chartSide } = view;
  const parts = appearanceParts
    .filter((part) => part !== 'columns')
    .map((part) => [part, view[part]]);
  const appearance = changed(Object.fromEntries(parts) as View, { chart, chartSide });
  const { version, ...saved } = saveView(appearance);
  return Object.keys(saved).length === 0 ? undefined : { version, ...saved };
}

/** What waits to be saved; where nothing does, an example of it. */
function ChangeWays({ table, changes, exampleRow }: ConnectProps): ReactElement {
  const { words } = useDesk();
  const [row, setRow] = useState<Row>();
  const some = changes.length > 0;
  useEffect(() => {
    if (some) return;
    exampleRow().then(setRow, () => undefined);
  }, [some, exampleRow]);
  const { origin } = window.location;
  const shown = some ? changes : exampleOf(table, row);
  return (
    <>
      {!some && <p className="mt-2 text-sm text-faint">{words.example}</p>}
      <Spellings all={changeSpellings({ origin, table: table.name, changes: shown })} />
    </>
  );
}

/** A change that changes nothing: a value of a row to what it is. */
function exampleOf({ columns, key }: TableDescription, row: Row | undefined): readonly Change[] {
  const column = columns.find(
    ({ name, writing, type }) =>
      writing?.change === true && type.kind !== 'json' && !key.includes(name),
  );
  if (row === undefined || column === undefined) return [];
  const value = { [column.name]: row[column.name] ?? null };
  return [{ kind: 'change', key: keyParts(row, key), was: value, values: value }];
}

function Spellings({ all }: { readonly all: readonly Spelling[] }): ReactElement {
  const { words } = useDesk();
  return (
    <Tabs.Root defaultValue={all[0]?.name ?? ''} className="mt-3 flex min-h-0 flex-col">
      <Tabs.List aria-label={words.asWhat} className="flex gap-6 border-b border-rule text-sm">
        {all.map(({ name }) => (
          <Tabs.Trigger
            key={name}
            value={name}
            className="-mb-px cursor-pointer border-b-2 border-transparent pb-1 hover:text-amber data-[state=active]:border-amber"
          >
            {words.ways[name]?.[0] ?? name}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {all.map((spelling) => (
        <Tabs.Content
          key={spelling.name}
          value={spelling.name}
          className="flex min-h-0 flex-col pt-3"
        >
          <Way {...spelling} />
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}

function Way({ name, about, code }: Spelling): ReactElement {
  const { words } = useDesk();
  const [copied, setCopied] = useState<'yes' | 'no'>();
  const copy = async (): Promise<void> => {
    try {
      await navigator.clipboard.writeText(code);
      setCopied('yes');
    } catch {
      setCopied('no');
    }
  };
  return (
    <>
      <p className="mb-2 flex items-baseline gap-4 text-sm text-faint">
        <span className="grow">{words.ways[name]?.[1] ?? about}</span>
        <span role="status">
          {copied === 'yes' ? words.copied : copied === 'no' ? words.copyRefused : ''}
        </span>
        <button type="button" className="offer" onClick={() => void copy()}>
          {words.copy}
        </button>
      </p>
      <pre
        data-testid="code"
        dir="ltr"
        tabIndex={0}
        className="min-h-24 overflow-auto bg-paper px-4 py-3 font-mono text-[0.8rem] leading-relaxed whitespace-pre-wrap"
      >
        {code}
      </pre>
    </>
  );
}
