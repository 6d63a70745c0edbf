import { useEffect, useState, type ReactElement } from 'react';
import type { Records } from '../records/use-records.ts';
import { useMessages } from '../messages/use-messages.ts';
import type { DefinedColumn } from './columns.tsx';
import { Popover } from './popover.tsx';

interface ToolLineProps {
  readonly records: Records;
  readonly searchable: boolean;
  readonly columns: readonly DefinedColumn[];
}

/** Above the table: the search, and which columns are shown. */
export function ToolLine({ records, searchable, columns }: ToolLineProps): ReactElement {
  const messages = useMessages();
  const { state, change } = records;
  return (
    <div className="eph-line eph-tools">
      {searchable && <SearchField search={records.search} onChange={records.setSearch} />}
      <Popover mark={messages.columns} label={messages.columns} className="eph-choose">
        {() =>
          columns.map(({ described: { name, label } }) => (
            <label key={name} className="eph-choice">
              <input
                type="checkbox"
                checked={!state.hidden.includes(name)}
                onChange={({ target }) =>
                  change(({ hidden }) => ({
                    hidden: target.checked
                      ? hidden.filter((one) => one !== name)
                      : [...hidden, name],
                  }))
                }
              />
              {label}
            </label>
          ))
        }
      </Popover>
    </div>
  );
}

/** Ms without a key before a search is asked. */
const rest = 300;

interface SearchFieldProps {
  readonly search: string;
  readonly onChange: (search: string) => void;
}

function SearchField({ search: asked, onChange }: SearchFieldProps): ReactElement {
  const messages = useMessages();
  const [text, setText] = useState(asked);
  const [last, setLast] = useState(asked);
  // Somebody else has changed it.
  if (last !== asked) {
    setLast(asked);
    setText(asked);
  }
  useEffect(() => {
    if (text === asked) return undefined;
    const timer = setTimeout(() => onChange(text), rest);
    return () => clearTimeout(timer);
  }, [text, asked, onChange]);
  return (
    <input
      type="search"
      className="eph-search"
      aria-label={messages.search}
      placeholder={messages.search}
      value={text}
      onChange={({ target }) => setText(target.value)}
    />
  );
}
