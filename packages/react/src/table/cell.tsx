import type { ReactElement } from 'react';
import type { FormattedValue } from '../format/value.ts';

/** A formatted value in a cell. What is no text (null, yes, no) looks unlike any text. */
export function Cell({ value: { text, kind, exact } }: { value: FormattedValue }): ReactElement {
  switch (kind) {
    case 'picture':
      return <img className="eph-picture" src={text} alt="" loading="lazy" />;
    case 'link':
      return (
        // The keyboard comes to it by the grid's own keys, and Enter.
        <a
          tabIndex={-1}
          className={`eph-link${lengthClass(text)}`}
          href={safeAddress(text)}
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
          {text}
        </span>
      );
    default:
      throw new Error(`unknown kind ${JSON.stringify(kind satisfies never)}`);
  }
}

/** Characters that have room in the narrowest of columns. */
const short = 7;

/** What may be longer than its cell is cut off. */
export function lengthClass(text: string): string {
  return text.length > short ? ' eph-long' : '';
}

/** A value from a database is no place for a script. */
function safeAddress(text: string): string | undefined {
  if (/^[^\s@:/?]+@[^\s@:/?]+$/.test(text)) return `mailto:${text}`;
  return /^(https?:|mailto:|\/)/i.test(text) ? text : undefined;
}
