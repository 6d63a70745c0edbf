import { lazy } from 'react';

/** Loaded with the first grouping that is shown. */
export const LevelsLine = lazy(async () => ({
  default: (await import('../levels/levels-line.tsx')).LevelsLine,
}));
