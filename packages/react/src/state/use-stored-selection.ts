import { filterText, nothingChosen, type ChosenRows } from '@ephoros/client';
import { useCallback, useMemo } from 'react';
import { browserStore, useStored } from './stores.ts';

/** A selection that is stored, as a table takes it. */
export interface StoredSelection {
  readonly selected: ChosenRows;
  readonly onSelectedChange: (keys: readonly string[], chosen: ChosenRows) => void;
}

/**
 * Keeps which rows are selected under a name, as long as this window of the browser is open: the page
 * may be loaded again or left meanwhile. Where the browser keeps nothing the page does.
 */
export function useStoredSelection(name: string): StoredSelection {
  const [text, keep] = useStored(browserStore, `ephoros.selection.${name}`);
  const selected = useMemo(() => chosenIn(text), [text]);
  const onSelectedChange = useCallback(
    (_keys: readonly string[], chosen: ChosenRows): void => keep(textOf(chosen)),
    [keep],
  );
  return { selected, onSelectedChange };
}

function textOf(chosen: ChosenRows): string {
  if (chosen.kind === 'keys') return chosen.keys.length === 0 ? '' : JSON.stringify(chosen);
  const { filter, ...rest } = chosen;
  return JSON.stringify({ ...rest, ...(filter && { filter: filterText(filter) }) });
}

/** What was stored; nothing where that is no selection. */
function chosenIn(text: string): ChosenRows {
  if (text === '') return nothingChosen;
  try {
    const read = JSON.parse(text) as Readonly<Record<string, unknown>>;
    if (read.kind === 'keys' && areTexts(read.keys)) return { kind: 'keys', keys: read.keys };
    if (read.kind !== 'matching' || !areTexts(read.except)) return nothingChosen;
    return {
      kind: 'matching',
      except: read.except,
      ...(typeof read.filter === 'string' && { filter: read.filter }),
      ...(areTexts(read.search) && { search: read.search }),
    };
  } catch {
    return nothingChosen;
  }
}

function areTexts(read: unknown): read is readonly string[] {
  return Array.isArray(read) && read.every((one) => typeof one === 'string');
}
