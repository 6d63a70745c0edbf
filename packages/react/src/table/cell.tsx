import type { ReactElement, ReactNode } from 'react';
import type { FormattedValue } from '../format/value.ts';
import { linkAddress, pictureAddress } from './safe-address.ts';

interface CellProps {
  readonly value: FormattedValue;
  /** Words that were searched for: they are marked where they occur. */
  readonly sought?: readonly string[] | undefined;
}

/** A formatted value in a cell. What is no text (null, yes, no) looks unlike any text. */
export function Cell({ value, sought }: CellProps): ReactElement {
  const { text, kind, exact } = value;
  switch (kind) {
    case 'picture': {
      const address = pictureAddress(text);
      if (address === undefined) return <span className="eph-text eph-long">{text}</span>;
      return (
        <img
          className="eph-picture"
          src={address}
          alt=""
          loading="lazy"
          referrerPolicy="no-referrer"
        />
      );
    }
    case 'link':
      return (
        // The keyboard comes to it by the grid's own keys, and Enter.
        <a
          tabIndex={-1}
          className={`eph-link${lengthClass(text)}`}
          href={linkAddress(text)}
          rel="noreferrer"
        >
          {text}
        </a>
      );
    case 'text':
    case 'number':
    case 'null':
    case 'yes':
    case 'no':
    case 'empty':
    case 'badge':
      return (
        <span
          className={`eph-${kind}${lengthClass(text)}`}
          title={exact ?? (kind === 'text' ? text : undefined)}
        >
          {sought === undefined ? text : marked(text, sought)}
        </span>
      );
    default:
      throw new Error(`unknown kind ${JSON.stringify(kind satisfies never)}`);
  }
}

/** A text with what was sought in it marked, letter case ignored. */
function marked(text: string, sought: readonly string[]): ReactNode {
  const words = sought.map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
  const parts = text.split(new RegExp(`(${words.join('|')})`, 'iu'));
  if (parts.length === 1) return text;
  // What was sought stands at every other place.
  return parts.map((part, index) => (index % 2 === 0 ? part : <mark key={index}>{part}</mark>));
}

/** Characters that have room in the narrowest of columns. */
const short = 7;

/** What may be longer than its cell is cut off. */
export function lengthClass(text: string): string {
  return text.length > short ? ' eph-long' : '';
}
