import { lazy, Suspense, type ReactElement } from 'react';

const Box = lazy(async () => ({ default: (await import('../editors/box.tsx')).Box }));

interface RowBoxProps {
  readonly label: string;
  /** `some` of what stands for several rows. */
  readonly checked: boolean | 'some';
  readonly change: () => void;
}

/** A box in a cell, to select rows by. The keyboard comes to it by the grid's own keys. */
export function RowBox({ label, checked, change }: RowBoxProps): ReactElement {
  return (
    <Suspense fallback={<span className="eph-box" />}>
      <Box tabIndex={-1} aria-label={label} checked={checked} change={change} />
    </Suspense>
  );
}
