import { useEffect, useState, type ReactElement } from 'react';
import { useMessages } from '../messages/use-messages.ts';
import { useRowsOf } from './table-context.ts';

/** Ms without a key before a search is sent. */
const rest = 300;

/** Words that rows must hold. */
export function SearchField(): ReactElement {
  const { search: label } = useMessages();
  const { search: path, setSearch } = useRowsOf();
  const [text, setText] = useState(path);
  const [last, setLast] = useState(path);
  // Somebody else has changed it.
  if (last !== path) {
    setLast(path);
    setText(path);
  }
  useEffect(() => {
    if (text === path) return undefined;
    const timer = setTimeout(() => setSearch(text), rest);
    return () => clearTimeout(timer);
  }, [text, path, setSearch]);
  return (
    <input
      type="search"
      className="eph-field eph-search"
      aria-label={label}
      placeholder={label}
      value={text}
      onChange={({ target }) => setText(target.value)}
    />
  );
}
