import { Dialog as Radix } from 'radix-ui';
import type { ReactElement, ReactNode } from 'react';
import { useDesk } from './desk.tsx';

interface DialogProps {
  readonly title: string;
  /** Classes that say how wide it is. */
  readonly width: string;
  /** Whether it has a way out of its own; it has by default. */
  readonly closable?: boolean;
  readonly children: ReactNode;
}

/** A sheet over the page, within `Radix.Root`: its title, what is on it, and the way out. */
export function DialogSheet({
  title,
  width,
  closable = true,
  children,
}: DialogProps): ReactElement {
  const { words } = useDesk();
  return (
    <Radix.Portal>
      <Radix.Overlay className="fixed inset-0 z-20 bg-ink/25" />
      <Radix.Content
        aria-describedby={undefined}
        className={`fixed top-12 left-1/2 z-30 flex max-h-[85vh] -translate-x-1/2 flex-col overflow-auto border border-t-2 border-rule border-t-amber bg-leaf px-7 py-5 shadow-lg ${width}`}
      >
        <Radix.Title className="font-serif text-xl">{title}</Radix.Title>
        {children}
        {closable && (
          <Radix.Close className="absolute end-6 top-4 cursor-pointer text-sm text-faint hover:text-amber">
            {words.close}
          </Radix.Close>
        )}
      </Radix.Content>
    </Radix.Portal>
  );
}
