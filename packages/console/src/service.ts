import { createClient } from '@ephoros/client';
import type { Reader } from '@ephoros/react';

/** The service that serves this page. */
export const client = createClient({ url: '/api' });

/** The reader, as the browser tells. */
export const reader: Reader = {
  locale: navigator.language,
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
};
