import type { ActiveCell, CellPlace } from '../table/movement.ts';

/** The same cells where so many rows came before them; what is no row (the header) stays. */
export function lowered(active: ActiveCell | undefined, rows: number): ActiveCell | undefined {
  if (active === undefined || active.row < 0) return active;
  const { anchor } = active;
  const by = <Place extends CellPlace>(one: Place): Place => ({
    ...one,
    row: Math.max(0, one.row + rows),
  });
  return by({ ...active, anchor: anchor && by(anchor) });
}
