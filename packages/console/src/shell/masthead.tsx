import type { ReactElement } from 'react';
import { Link } from 'wouter';
import { useTheme } from './theme.ts';

/** The line on top of every page. */
export function Masthead({ title }: { title?: string }): ReactElement {
  const [theme, setTheme] = useTheme();
  return (
    <header className="flex items-baseline gap-4 px-6 pt-3 text-sm text-faint">
      {title !== undefined && (
        <Link href="/" className="hover:text-amber">
          ← All tables
        </Link>
      )}
      <span className="grow" />
      <button
        type="button"
        className="cursor-pointer hover:text-amber"
        onClick={() => setTheme(theme === 'dark' ? 'light' : 'dark')}
      >
        {theme === 'dark' ? 'by daylight' : 'by lamplight'}
      </button>
    </header>
  );
}
