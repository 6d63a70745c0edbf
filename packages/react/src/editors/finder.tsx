import { useDeferredValue, useState, type ReactElement } from 'react';

interface FinderProps {
  /** What is sought with it. */
  readonly label: string;
  readonly text: string;
  readonly change: (text: string) => void;
}

/** A field that narrows a list. */
export function Finder({ label, text, change }: FinderProps): ReactElement {
  return (
    <input
      className="eph-field eph-wide"
      type="search"
      placeholder={label.toLowerCase()}
      aria-label={label}
      value={text}
      onChange={({ target }) => change(target.value)}
    />
  );
}

/** A list that is requested in parts, and narrowed while one types. */
export interface Finding {
  /** What is sought; empty for everything. */
  readonly containing: string;
  /** How many entries are wanted by now. */
  readonly limit: number;
  readonly more: () => void;
  /** The field, of a name. */
  readonly finder: (label: string) => ReactElement;
}

/** Entries of one answer; more are read as they are requested. */
const atOnce = 50;

export function useFinding(): Finding {
  const [sought, setSought] = useState('');
  const [windows, setWindows] = useState(1);
  const change = (text: string): void => {
    setSought(text);
    setWindows(1);
  };
  return {
    containing: useDeferredValue(sought.trim()),
    limit: atOnce * windows,
    more: () => setWindows((last) => last + 1),
    finder: (label) => <Finder label={label} text={sought} change={change} />,
  };
}
