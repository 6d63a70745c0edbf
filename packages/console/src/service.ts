import { createClient, RequestLog } from '@ephoros/client';

/** What this page has asked. */
export const log = new RequestLog();

/** The service that serves this page. */
export const client = createClient({ url: '/api', log });

/** The reader, as the browser tells. */
export const reader = {
  locale: navigator.language,
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
};
