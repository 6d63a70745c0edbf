import { createClient, RequestLog } from '@ephoros/client';
import { keptHere } from '@ephoros/react';

/** What this page has asked. */
export const log = new RequestLog();

/** Where this window keeps the trouble that it wants simulated. */
export const simulationKey = 'ephoros.simulation';

/** The service that serves this page. */
export const client = createClient({
  url: '/api',
  log,
  headers: (): Record<string, string> => {
    const trouble = keptHere.read(simulationKey);
    return trouble === '' ? {} : { 'Ephoros-Simulate': trouble };
  },
});
