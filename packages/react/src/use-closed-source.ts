import { useEffect, useState } from 'react';

/** Closes a source when another takes its place, or the component goes. */
export function useClosedSource(source: { readonly close: () => void }): void {
  const [opened] = useState(() => new Set<unknown>());
  useEffect(() => {
    opened.add(source);
    return () => {
      opened.delete(source);
      // React's strict mode takes effects back and does them again; the second time stays.
      setTimeout(() => {
        if (!opened.has(source)) source.close();
      });
    };
  }, [source, opened]);
}
