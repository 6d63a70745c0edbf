import type { Simulation } from '@ephoros/core/simulation';
import { pause } from './pause.ts';
import { ServiceError } from './service-error.ts';

/**
 * Has a question be slow, or fail, where that is wanted. `random` gives numbers from 0 up to, not
 * including, 1. @throws ServiceError
 */
export async function simulated(
  simulation: Simulation | undefined,
  signal: AbortSignal | undefined,
  random = Math.random,
): Promise<void> {
  const { delay = 0, fail = 0 } = simulation ?? {};
  if (delay > 0) await pause(delay, signal);
  if (fail > 0 && random() < fail) {
    throw new ServiceError('failed', 'This failure is simulated.', { status: 503 });
  }
}
