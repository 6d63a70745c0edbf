import { createClient } from '@ephoros/client';

/** The service that serves this page. */
export const client = createClient({ url: '/api' });

/** The reader, as the browser tells. */
export const reader = {
  locale: navigator.language,
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
};
