import { useEffect, useRef, useState, type ReactElement, type ReactNode } from 'react';

interface PopoverProps {
  /** What is pressed to open it. */
  readonly mark: ReactNode;
  readonly label: string;
  readonly className?: string;
  readonly marked?: boolean;
  readonly children: (close: () => void) => ReactNode;
}

/** A sheet that stands above everything, beside the button that opened it. */
export function Popover({
  mark,
  label,
  className = '',
  marked = false,
  children,
}: PopoverProps): ReactElement {
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const sheet = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = sheet.current;
    if (element === null) return undefined;
    const toggled = (event: Event): void => setOpen((event as ToggleEvent).newState === 'open');
    element.addEventListener('toggle', toggled);
    return () => element.removeEventListener('toggle', toggled);
  }, []);
  useEffect(() => {
    if (open) place(sheet.current, button.current);
  }, [open]);
  const [close] = useState(() => (): void => sheet.current?.hidePopover());
  return (
    <>
      <button
        ref={button}
        type="button"
        tabIndex={-1}
        className={`eph-mark-button ${className}`}
        aria-label={label}
        aria-haspopup="dialog"
        aria-expanded={open}
        data-marked={marked}
        onClick={() => sheet.current?.togglePopover()}
      >
        {mark}
      </button>
      <div ref={sheet} popover="auto" role="dialog" aria-label={label} className="eph-sheet">
        {open && children(close)}
      </div>
    </>
  );
}

/** Below its button and within the window; the first field has the keyboard. */
function place(sheet: HTMLElement | null, button: HTMLElement | null): void {
  if (sheet === null || button === null) return;
  const box = button.getBoundingClientRect();
  const { clientWidth, clientHeight } = sheet.ownerDocument.documentElement;
  const mirrored = getComputedStyle(sheet).direction === 'rtl';
  const left = mirrored ? box.right - sheet.offsetWidth : box.left;
  const below = box.bottom + 6;
  const fits = below + sheet.offsetHeight <= clientHeight - 8;
  const top = fits ? below : Math.max(8, box.top - sheet.offsetHeight - 6);
  sheet.style.left = `${Math.max(8, Math.min(left, clientWidth - sheet.offsetWidth - 8))}px`;
  sheet.style.top = `${top}px`;
  sheet.querySelector<HTMLElement>('input, select, button')?.focus();
}
