import { createClient, RequestLog } from '@ephoros/client';
import { filesClient } from '@ephoros/client/files';
import { keptHere } from '@ephoros/react';

/** What this page has asked. */
export const log = new RequestLog();

/** Where this window keeps the trouble that it wants simulated. */
export const simulationKey = 'ephoros.simulation';

const options = {
  url: '/api',
  log,
  headers: (): Record<string, string> => {
    const trouble = keptHere.read(simulationKey);
    return trouble === '' ? {} : { 'Ephoros-Simulate': trouble };
  },
};

/** The service that serves this page. */
export const client = createClient(options);

/** Rows of it as files, and views as reports. */
export const files = filesClient({ ...options, reports: '/report' });
