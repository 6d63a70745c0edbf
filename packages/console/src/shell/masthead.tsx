import type { ReactElement, ReactNode } from 'react';
import { Link } from 'wouter';
import { useTheme } from './theme.ts';

interface MastheadProps {
  readonly title?: string;
  /** What the page itself offers there. */
  readonly children?: ReactNode;
}

/** The line on top of every page. */
export function Masthead({ title, children }: MastheadProps): ReactElement {
  const [theme, setTheme] = useTheme();
  return (
    <header className="flex items-baseline gap-4 px-6 pt-3 text-sm text-faint">
      {title !== undefined && (
        <Link href="/" className="hover:text-amber">
          ← All tables
        </Link>
      )}
      <span className="grow" />
      {children}
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
