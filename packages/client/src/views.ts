import type {
  View,
  ViewAnswer,
  ViewsAnswer,
  WantedView,
  WantedViewChange,
} from '@ephoros/core/view';
import { saveView } from '@ephoros/core/view';
import { withParameters, type Pair, type Transport } from './transport.ts';

/** A view that is to be stored. */
export type NewSavedView = Omit<WantedView, 'view'> & { readonly view: View };

/** What shall be otherwise of a saved view. */
export type SavedViewChange = Omit<WantedViewChange, 'view'> & { readonly view?: View };

/** Which saved views: of a table, with words in their name or note, that their table opens with. */
export interface SavedViewsQuery {
  readonly table?: string;
  readonly search?: string;
  readonly first?: boolean;
  /** 100 at most, the default. */
  readonly limit?: number;
  /** What `next` of an answer stated. */
  readonly after?: string;
}

/**
 * Views that the service keeps: one's own, and those that are shared. What is read of one is what
 * its table still has of it; `left` says what is missing, and why.
 */
export interface ViewsClient {
  /** Keeps a view under a name. */
  keep(view: NewSavedView, signal?: AbortSignal): Promise<ViewAnswer>;
  read(id: string, signal?: AbortSignal): Promise<ViewAnswer>;
  /** By name, page by page. */
  list(wanted?: SavedViewsQuery, signal?: AbortSignal): Promise<ViewsAnswer>;
  /**
   * Changes a view where it still is as it was read; rejects with a `ServiceError` of status 412
   * where somebody was quicker. `'any'` changes whatever it is by now.
   */
  change(
    view: Pick<ViewAnswer, 'id'> & { readonly version: number | 'any' },
    change: SavedViewChange,
    signal?: AbortSignal,
  ): Promise<ViewAnswer>;
  drop(id: string, signal?: AbortSignal): Promise<void>;
}

export function viewsOver(transport: Transport): ViewsClient {
  const address = (id?: string): string => transport.addressIn('views', id);
  return {
    keep: async ({ view, ...rest }, signal) => {
      const body = JSON.stringify({ ...rest, view: saveView(view) });
      return (await transport.send('POST', address(), body, signal)) as ViewAnswer;
    },
    read: async (id, signal) => (await transport.get(address(id), signal)) as ViewAnswer,
    list: async (wanted = {}, signal) => {
      const pairs = Object.entries(wanted).flatMap(([name, value]): Pair[] =>
        value === undefined ? [] : [[name, String(value)]],
      );
      return (await transport.get(withParameters(address(), pairs), signal)) as ViewsAnswer;
    },
    change: async ({ id, version }, { view, ...rest }, signal) => {
      const body = JSON.stringify({ ...rest, ...(view && { view: saveView(view) }) });
      const headers = { 'If-Match': version === 'any' ? '*' : `"${version}"` };
      return (await transport.send('PATCH', address(id), body, signal, headers)) as ViewAnswer;
    },
    drop: async (id, signal) => {
      await transport.send('DELETE', address(id), undefined, signal);
    },
  };
}
