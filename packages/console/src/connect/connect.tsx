import { shownNames, type TableDescription } from '@ephoros/core/schema';
import { queryOf, type View } from '@ephoros/core/view';
import { Dialog, Tabs } from 'radix-ui';
import { useState, type ReactElement } from 'react';
import { spellings, type Spelling } from './spellings.ts';

interface ConnectProps {
  readonly view: View;
  readonly table: TableDescription;
}

/** How to ask for what is on the screen from elsewhere: as a request, and as code. */
export function Connect({ view, table }: ConnectProps): ReactElement {
  return (
    <Dialog.Root>
      <Dialog.Trigger className="cursor-pointer hover:text-amber">connect</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-12 left-1/2 z-30 flex max-h-[85vh] w-[min(56rem,94vw)] -translate-x-1/2 flex-col border border-t-2 border-rule border-t-amber bg-leaf px-7 py-5 shadow-lg"
        >
          <Dialog.Title className="font-serif text-xl">
            Connect to what is on the screen
          </Dialog.Title>
          <Ways view={view} table={table} />
          <Dialog.Close className="absolute top-4 right-6 cursor-pointer text-sm text-faint hover:text-amber">
            close
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Ways({ view, table }: ConnectProps): ReactElement {
  const all = spellings({
    origin: window.location.origin,
    table: table.name,
    query: { ...queryOf(view), ...(view.place && { place: view.place }) },
    columns: view.columns?.map(({ name }) => name) ?? shownNames(table),
    reading: view.reading ?? 'pages',
  });
  return (
    <Tabs.Root defaultValue={all[0]?.name ?? ''} className="mt-3 flex min-h-0 flex-col">
      <Tabs.List aria-label="As what" className="flex gap-6 border-b border-rule text-sm">
        {all.map(({ name }) => (
          <Tabs.Trigger
            key={name}
            value={name}
            className="-mb-px cursor-pointer border-b-2 border-transparent pb-1 hover:text-amber data-[state=active]:border-amber"
          >
            {name}
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

function Way({ about, code }: Spelling): ReactElement {
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
        <span className="grow">{about}</span>
        <span role="status">
          {copied === 'yes' ? 'copied' : copied === 'no' ? 'The browser refused; select it.' : ''}
        </span>
        <button type="button" className="offer" onClick={() => void copy()}>
          Copy
        </button>
      </p>
      <pre
        data-testid="code"
        tabIndex={0}
        className="min-h-24 overflow-auto bg-paper px-4 py-3 font-mono text-[0.8rem] leading-relaxed whitespace-pre-wrap"
      >
        {code}
      </pre>
    </>
  );
}
