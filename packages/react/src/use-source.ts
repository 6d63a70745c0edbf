import type { RowSource, SourceState } from '@ephoros/client';
import { useSyncExternalStore } from 'react';

/** The state of a row source; the component is drawn again whenever it or a row has changed. */
export function useSource<Line>(source: RowSource<Line>): SourceState {
  return useSyncExternalStore(source.subscribe, source.state, source.state);
}
