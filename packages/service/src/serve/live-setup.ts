import { livePublicationOf, liveTriggersOf } from '@ephoros/core/sql';
import { Engine, type EngineOptions } from '../engine/index.ts';

/** Why there is nothing by which the rows of a table could be distinguished. */
export type NoLiveSetup = 'no table' | 'no key';

/** What the owner of a table runs, and what takes that away again. */
export interface LiveSetup {
  readonly add: string;
  readonly drop: string;
}

/**
 * What the owner of a published table runs, so that the service knows which rows are written: by triggers, or by the log of the
 * server. @throws ConfigurationError, Failure
 */
export async function liveSetup(
  options: EngineOptions,
  table: string,
  by: 'triggers' | 'log',
): Promise<LiveSetup | NoLiveSetup> {
  const engine = new Engine({ ...options, connections: 3 });
  try {
    const catalog = await engine.ready();
    const description = catalog.describe(table);
    if (description === undefined) return 'no table';
    if (description.key.length === 0 || description.kind === 'view') return 'no key';
    const relation = catalog.locate(table);
    return by === 'log' ? livePublicationOf(relation) : liveTriggersOf(description, relation);
  } finally {
    await engine.close();
  }
}
