import { useEffect, useState } from 'react';

export type Theme = 'light' | 'dark';

const key = 'ephoros.theme';

function preferred(): Theme {
  const kept = localStorage.getItem(key);
  if (kept === 'light' || kept === 'dark') return kept;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
}

/** The theme and how to change it; kept in the browser. */
export function useTheme(): [Theme, (theme: Theme) => void] {
  const [theme, setTheme] = useState(preferred);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  return [
    theme,
    (next) => {
      localStorage.setItem(key, next);
      setTheme(next);
    },
  ];
}
