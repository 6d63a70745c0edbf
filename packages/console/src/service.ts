import { createClient, RequestLog } from '@ephoros/client';
import { filesClient } from '@ephoros/client/files';
import { browserStore, type Watch } from '@ephoros/react';

/** What this page has requested. */
export const log = new RequestLog();

/** Where this window keeps the trouble that it wants simulated. */
export const simulationKey = 'ephoros.simulation';

const unknown = new Set<() => void>();

/** Calls back whenever the service says that it does not know who asks. Gives what ends that. */
export function whenUnknown(call: () => void): () => void {
  unknown.add(call);
  return () => unknown.delete(call);
}

const options = {
  url: '/api',
  log,
  fetch: async (...request: Parameters<typeof fetch>): Promise<Response> => {
    const response = await fetch(...request);
    if (response.status === 401) for (const call of unknown) call();
    return response;
  },
  headers: (): Record<string, string> => {
    const trouble = browserStore.read(simulationKey);
    return trouble === '' ? {} : { 'Ephoros-Simulate': trouble };
  },
};

/** Watches what others write; loaded behind the rows. */
export const watch: Watch = async (...wanted) => {
  const { watchRows } = await import('@ephoros/client/live');
  await watchRows(options, ...wanted);
};

/** The service that serves this page. */
export const client = createClient(options);

/** Rows of it as files, and views as reports. */
export const files = filesClient({ ...options, reports: '/report' });
