import { Popover } from 'radix-ui';
import { useState, type ReactElement, type ReactNode } from 'react';

interface PopProps {
  /** What is clicked. */
  readonly trigger: ReactElement;
  readonly label: string;
  /** Drawn when open; `close` shuts it. */
  readonly children: (close: () => void) => ReactNode;
}

/** A slip of paper that opens beside what was clicked. */
export function Pop({ trigger, label, children }: PopProps): ReactElement {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={label}
          align="start"
          sideOffset={6}
          collisionPadding={12}
          className="z-20 max-h-[70vh] max-w-96 min-w-64 overflow-auto border border-rule border-t-2 border-t-amber bg-leaf px-5 py-4 shadow-lg"
        >
          {children(() => setOpen(false))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
