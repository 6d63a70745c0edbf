import { compileSettings, type Statement } from '@ephoros/core/sql';
import type pg from 'pg';

/** How a session plans what it has prepared, as `sessions` sets it to begin with. */
export const plannedEachTime = 'force_custom_plan';
const plannedOnce = 'auto';

/** Steady statements after which a session is worth being changed for them. */
const worthChanging = 8;

/** Prepared statements are planned for their values, unless one plan serves all values. */
export class PlanMode {
  private readonly sessions = new WeakMap<pg.ClientBase, { once: boolean; steady: number }>();

  /**
   * Sets a session for the statement that comes next. Changing it takes as long as planning does: it
   * is done where only steady statements came for a while, and taken back before the first other.
   */
  async setFor(client: pg.ClientBase, { steady = false }: Statement): Promise<void> {
    const session = this.sessions.get(client) ?? { once: false, steady: 0 };
    this.sessions.set(client, session);
    session.steady = steady ? session.steady + 1 : 0;
    const once = steady && (session.once || session.steady > worthChanging);
    if (once === session.once) return;
    const { text, parameters } = compileSettings({
      plan_cache_mode: once ? plannedOnce : plannedEachTime,
    });
    await client.query(text, [...parameters]);
    session.once = once;
  }
}
