import type { Density } from '@ephoros/core/view';
import { browserStores, useStored } from '@ephoros/react';
import { useCallback, useMemo } from 'react';

export type Language = 'en' | 'ar';

/** What a reader prefers; absent is as the browser or the table has it. */
export interface Preferences {
  readonly language?: Language | undefined;
  readonly theme?: 'light' | 'dark' | undefined;
  readonly density?: Density | undefined;
  /** IANA. */
  readonly timeZone?: string | undefined;
  readonly motion?: 'none' | undefined;
}

const key = 'ephoros.preferences';

const allowed = {
  language: ['en', 'ar'],
  theme: ['light', 'dark'],
  density: ['compact', 'normal', 'roomy'],
  motion: ['none'],
} as const;

/** What of a stored text can still be read. */
function preferencesIn(text: string): Preferences {
  let read: unknown;
  try {
    read = JSON.parse(text === '' ? '{}' : text);
  } catch {
    return {};
  }
  if (typeof read !== 'object' || read === null) return {};
  const { timeZone, ...others } = read as Record<string, unknown>;
  const known = Object.entries(allowed).flatMap(([name, values]) => {
    const value = (values as readonly unknown[]).find((one) => one === others[name]);
    return value === undefined ? [] : [[name, value] as const];
  });
  return {
    ...(Object.fromEntries(known) as Preferences),
    ...(typeof timeZone === 'string' && isTimeZone(timeZone) && { timeZone }),
  };
}

function isTimeZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

/** What the reader prefers, stored in this browser, and what changes it. */
export function usePreferences(): readonly [Preferences, (change: Preferences) => void] {
  const [text] = useStored(browserStores, key);
  const preferences = useMemo(() => preferencesIn(text), [text]);
  const change = useCallback((wanted: Preferences) => {
    const next = { ...preferencesIn(browserStores.read(key)), ...wanted };
    browserStores.write(key, JSON.stringify(next));
  }, []);
  return [preferences, change];
}
