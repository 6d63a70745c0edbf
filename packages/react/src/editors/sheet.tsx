import { Popover } from 'radix-ui';
import {
  useLayoutEffect,
  useState,
  type ReactElement,
  type ReactNode,
  type RefObject,
} from 'react';

interface SheetProps {
  /** What it opens next to. */
  readonly anchor: RefObject<HTMLElement | null>;
  readonly label: string;
  readonly close: () => void;
  readonly children: ReactNode;
}

/**
 * A slip of paper next to what was pressed. It lies in the browser's top layer, over whatever is
 * around the table, and within the table's element, so that it looks and reads as that does.
 */
export function Sheet({ anchor, label, close, children }: SheetProps): ReactElement {
  const layer = useTopLayer(anchor);
  return (
    <Popover.Root open onOpenChange={close}>
      <Popover.Anchor virtualRef={anchor} />
      <Popover.Portal container={layer}>
        <Popover.Content
          aria-label={label}
          align="start"
          sideOffset={6}
          collisionPadding={12}
          className="eph-sheet"
          // What is sent here is nothing of a form that the button stands in.
          onSubmit={(event) => event.stopPropagation()}
          // The button itself closes what it has opened.
          onInteractOutside={(event) => {
            if (anchor.current?.contains(event.target as Node) === true) event.preventDefault();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (isKeyboardFree()) anchor.current?.focus();
          }}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/**
 * Whether nothing has the keyboard, as when what had it is gone. Where a reader has gone elsewhere
 * meanwhile, it stays there.
 */
export const isKeyboardFree = (): boolean => document.activeElement === document.body;

/** An element of the browser's top layer, within the table that an element belongs to. */
export function useTopLayer(anchor: { readonly current: HTMLElement | null }): HTMLElement {
  const [layer] = useState(() => {
    const element = document.createElement('div');
    element.className = 'eph-top-layer';
    element.popover = 'manual';
    return element;
  });
  useLayoutEffect(() => {
    const around = anchor.current?.closest('.eph-view') ?? document.body;
    around.append(layer);
    layer.showPopover();
    return () => layer.remove();
  }, [anchor, layer]);
  return layer;
}
