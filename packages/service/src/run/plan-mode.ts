import { compileSettings, type Statement } from '@ephoros/core/sql';
import type pg from 'pg';

/** How a session plans what it has prepared, as `sessions` sets it to begin with. */
export const plannedEachTime = 'force_custom_plan';
const plannedOnce = 'auto';

/** Steady statements after which a session is worth being changed for them. */
const worthChanging = 8;

/** Prepared statements are planned for their values, unless one plan serves all values. */
export class PlanMode {
  private readonly sessions = new WeakMap<pg.ClientBase, { once: boolean; generic: number }>();

  /**
   * Sets a session for the statement that comes next. Changing it takes as long as planning does: it
   * is done where only steady statements came for a while, and taken back before the first other.
   */
  async setFor(client: pg.ClientBase, { isGeneric: generic = false }: Statement): Promise<void> {
    const session = this.sessions.get(client) ?? { once: false, generic: 0 };
    this.sessions.set(client, session);
    session.generic = generic ? session.generic + 1 : 0;
    const once = generic && (session.once || session.generic > worthChanging);
    if (once === session.once) return;
    const { text, parameters } = compileSettings({
      plan_cache_mode: once ? plannedOnce : plannedEachTime,
    });
    await client.query(text, [...parameters]);
    session.once = once;
  }
}
