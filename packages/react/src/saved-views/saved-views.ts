import type { ViewsClient } from '@ephoros/client';

/** Saved views of a table, as its line offers them. */
export interface SavedViews {
  readonly client: ViewsClient;
  /** The view that is open; empty where that shall be none, undefined where nothing is stated. */
  readonly open: string | undefined;
  readonly setOpen: (id: string) => void;
}
