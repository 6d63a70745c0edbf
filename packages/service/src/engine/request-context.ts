import type { Access } from '../access/index.ts';
import type { Catalog } from '../catalog/index.ts';
import type { Tally } from '../query/index.ts';
import type { WaitBudget } from '../run/index.ts';

/** Who asks, until when, and what is measured. */
export interface RequestContext {
  /** What the caller may see, as it was when the question was begun. */
  readonly catalog: Catalog;
  /** Aborts when nobody waits for the answer any more. */
  readonly signal: AbortSignal;
  readonly tally: Tally;
  /** How long the caller waits. */
  readonly budget: WaitBudget;
  /** Who asks, as far as the rules of access tell; undefined where there are no rules. */
  readonly access?: Pick<Access, 'caller' | 'may' | 'about'> | undefined;
}
