import { lazy, Suspense, useState, type ReactElement, type ReactNode } from 'react';
import { Link } from 'wouter';
import { useReader } from '../sign-in/reader.ts';
import { useDesk } from './desk.tsx';

interface ConsoleHeaderProps {
  readonly title?: string;
  /** What the page itself offers there. */
  readonly children?: ReactNode;
}

/** Loaded when they are first opened. */
const PreferencesSheet = lazy(async () => ({
  default: (await import('./preferences-sheet.tsx')).PreferencesSheet,
}));

/** The line on top of every page. */
export function ConsoleHeader({ title, children }: ConsoleHeaderProps): ReactElement {
  const { words, theme, language, prefer } = useDesk();
  const { caller, signOut } = useReader();
  const [open, setOpen] = useState(false);
  return (
    <header className="masthead flex min-h-8.5 flex-wrap items-baseline gap-x-4 px-6 pt-3 text-sm text-faint">
      {title !== undefined && (
        <Link href="/" className="hover:text-amber">
          <span className="inline-block rtl:-scale-x-100">←</span> {words.allTables}
        </Link>
      )}
      <span className="grow" />
      {children}
      <button
        type="button"
        className="cursor-pointer hover:text-amber max-sm:hidden"
        lang={language === 'en' ? 'ar' : 'en'}
        onClick={() => prefer({ language: language === 'en' ? 'ar' : 'en' })}
      >
        {words.otherLanguage}
      </button>
      <button
        type="button"
        className="cursor-pointer hover:text-amber max-sm:hidden"
        onClick={() => prefer({ theme: theme === 'dark' ? 'light' : 'dark' })}
      >
        {theme === 'dark' ? words.themes.light : words.themes.dark}
      </button>
      <a href="/docs/" className="hover:text-amber">
        {words.docs}
      </a>
      <button
        type="button"
        className="cursor-pointer hover:text-amber"
        aria-haspopup="dialog"
        onClick={() => setOpen(true)}
      >
        {words.preferences}
      </button>
      {caller?.name != null && (
        <span className="flex items-baseline gap-2">
          <span className="font-serif italic text-ink" title={caller.roles.join(', ')}>
            {caller.title ?? caller.name}
          </span>
          {caller.canSignOut && (
            <button
              type="button"
              className="cursor-pointer hover:text-amber"
              onClick={() => void signOut()}
            >
              {words.signOut}
            </button>
          )}
        </span>
      )}
      {open && (
        <Suspense>
          <PreferencesSheet close={() => setOpen(false)} />
        </Suspense>
      )}
    </header>
  );
}
