import { useRef, useState, type ReactElement, type ReactNode } from 'react';
import { useLater } from '../later.ts';
import { editors } from './loaded.ts';
import { LoadFailure } from './load-failure.tsx';

type Editors = typeof import('../editors/index.ts');

interface PopProps {
  /** What stands on the button. */
  readonly text: ReactNode;
  /** What the button is called, where that is not what stands on it. */
  readonly name?: string;
  /** What the sheet is called. */
  readonly label: string;
  readonly className: string;
  readonly marked?: boolean;
  /** Whether Tab leads to it; in cells of the grid the arrow keys do. */
  readonly tabbable?: boolean;
  /** What stands on the sheet, of the editors that are loaded by then; `close` shuts it. */
  readonly children: (editors: Editors, close: () => void) => ReactNode;
}

/** A button that opens a sheet next to it. The sheet and what stands on it are loaded then. */
export function Pop(props: PopProps): ReactElement {
  const { text, name, label, className, marked, tabbable = true, children } = props;
  const [open, setOpen] = useState(false);
  const loaded = useLater(editors, open);
  const button = useRef<HTMLButtonElement>(null);
  const close = (): void => setOpen(false);
  return (
    <>
      <button
        ref={button}
        type="button"
        className={className}
        aria-label={name}
        aria-haspopup="dialog"
        aria-expanded={open}
        data-marked={marked}
        tabIndex={tabbable ? undefined : -1}
        onClick={() => setOpen(!open)}
      >
        {text}
      </button>
      {open && loaded.state === 'ready' && (
        <loaded.result.Sheet anchor={button} label={label} close={close}>
          {children(loaded.result, close)}
        </loaded.result.Sheet>
      )}
      {open && loaded.state === 'failed' && <LoadFailure retry={loaded.retry} />}
    </>
  );
}
