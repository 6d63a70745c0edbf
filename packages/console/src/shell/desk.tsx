import type { Density } from '@ephoros/core/view';
import { english, MessagesContext, useAnswer, type Messages } from '@ephoros/react';
import {
  createContext,
  useContext,
  useEffect,
  useMemo,
  useState,
  type ReactElement,
  type ReactNode,
} from 'react';
import { englishWords } from '../words/english.ts';
import type { Words } from '../words/words.ts';
import { usePreferences, type Language, type Preferences } from './preferences.ts';

/** What every page of the console has: its words, who reads it, what they prefer. */
export interface Desk {
  readonly words: Words;
  /** The addresses of tables, as `TableView` takes them. */
  readonly reader: {
    readonly messages: Messages;
    readonly locale: string;
    readonly timeZone: string;
    readonly density: Density;
  };
  readonly language: Language;
  readonly theme: 'light' | 'dark';
  readonly preferences: Preferences;
  readonly prefer: (change: Preferences) => void;
}

const DeskContext = createContext<Desk | undefined>(undefined);

export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (desk === undefined) throw new Error('a page lies on the desk');
  return desk;
}

const spoken = { words: englishWords, messages: english };
const loadArabic = (): Promise<typeof spoken> => import('../words/arabic.ts');

/** The time zone of the browser. */
export const browserZone = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** The language of the browser; English where it names none, as a browser in the locale "C" does. */
function browserLocale(): string {
  try {
    return Intl.getCanonicalLocales(navigator.language)[0] ?? 'en';
  } catch {
    return 'en';
  }
}

/** What lies around all pages: in the reader's language, by their light. */
export function DeskProvider({ children }: { readonly children: ReactNode }): ReactElement | null {
  const [preferences, prefer] = usePreferences();
  const { timeZone = browserZone, density = 'normal', motion } = preferences;
  const own = browserLocale();
  const language = preferences.language ?? (own.startsWith('ar') ? 'ar' : 'en');
  const answer = useAnswer(language === 'ar' ? loadArabic : undefined);
  const arabic = language === 'ar' && answer.state === 'ready' ? answer.result : undefined;
  // Where the other language cannot be had, this one is better than nothing.
  const isAwaited = language === 'ar' && answer.state === 'loading';
  const { words, messages } = arabic ?? spoken;
  const systemDark = matchMedia('(prefers-color-scheme: dark)').matches;
  const theme = preferences.theme ?? (systemDark ? 'dark' : 'light');
  useEffect(() => {
    const { documentElement: page } = document;
    page.dataset.theme = theme;
    page.lang = messages.language;
    page.dir = messages.direction;
    if (motion === undefined) delete page.dataset.motion;
    else page.dataset.motion = motion;
  }, [theme, messages, motion]);
  const spokenHere = own.startsWith(language) || language === 'en' ? own : language;
  const desk = useMemo(
    (): Desk => ({
      words,
      reader: { messages, locale: spokenHere, timeZone, density },
      language,
      theme,
      preferences,
      prefer,
    }),
    [words, messages, spokenHere, timeZone, density, language, theme, preferences, prefer],
  );
  // What is shown stays, in the language that it has, until the other one is there.
  const [hasBegun, setBegun] = useState(!isAwaited);
  if (!isAwaited && !hasBegun) setBegun(true);
  if (isAwaited && !hasBegun) return null;
  return (
    <DeskContext.Provider value={desk}>
      <MessagesContext.Provider value={messages}>{children}</MessagesContext.Provider>
    </DeskContext.Provider>
  );
}
