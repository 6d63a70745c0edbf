import type { ReactElement } from 'react';

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
