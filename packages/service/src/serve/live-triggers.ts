import { liveTriggersOf } from '@ephoros/core/sql';
import { Engine, type EngineOptions } from '../engine/index.ts';

/** Why there are no triggers for a table. */
export type NoTriggers = 'no table' | 'no key';

/**
 * What the owner of a published table runs, so that it is told which rows are written, and what takes that away again.
 * @throws ConfigurationError, Failure
 */
export async function liveTriggers(
  options: EngineOptions,
  table: string,
): Promise<ReturnType<typeof liveTriggersOf> | NoTriggers> {
  const engine = new Engine({ ...options, connections: 3 });
  try {
    const catalog = await engine.ready();
    const description = catalog.describe(table);
    if (description === undefined) return 'no table';
    if (description.key.length === 0 || description.kind === 'view') return 'no key';
    return liveTriggersOf(description, catalog.locate(table));
  } finally {
    await engine.close();
  }
}
