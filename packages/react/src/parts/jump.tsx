import { useId, useState, type ReactElement } from 'react';

interface JumpProps {
  readonly label: string;
  /** The last number there is; undefined where nobody knows. */
  readonly most: number | undefined;
  readonly go: (number: number) => void;
}

/** A field for a page or a row to go to, counted from 1. */
export function Jump({ label, most = Infinity, go }: JumpProps): ReactElement {
  const [text, setText] = useState('');
  const id = useId();
  return (
    <form
      className="eph-jump"
      onSubmit={(event) => {
        event.preventDefault();
        // As people write it, and as it stands next to: "7,412,000".
        const wanted = Number(text.replace(/[\s.,'’_]/g, ''));
        if (!Number.isInteger(wanted) || wanted < 1) return;
        go(Math.min(most, wanted));
        setText('');
      }}
    >
      <label htmlFor={id}>{label}</label>
      <input
        id={id}
        className="eph-field"
        inputMode="numeric"
        autoComplete="off"
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
    </form>
  );
}
