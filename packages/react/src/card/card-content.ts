import type { Row } from '@ephoros/client';
import type { Drafts, DraftsState } from '@ephoros/client/drafts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import type { FullReader } from '../format/value.ts';
import type { CardMessages } from '../messages/card-messages.ts';
import type { RequestClient } from '../records/request-client.ts';
import type { AddressOf } from './address-of.ts';
import type { ReadRow } from './read-row.ts';

/** Changes of the row that a card shows. */
export interface CardEditing {
  readonly drafts: Drafts;
  readonly messages: EditingMessages;
  /** Another one with each change. */
  readonly state: DraftsState;
}

/** What the parts of a card are drawn from. */
export interface CardContent {
  readonly client: RequestClient;
  readonly read: ReadRow & { readonly row: Row };
  readonly reader: FullReader;
  readonly card: CardMessages;
  readonly addressOf: AddressOf | undefined;
  /** What of the row is changed, and how; undefined where nothing can be. */
  readonly editing: CardEditing | undefined;
  /** Whether the history is open; it stays so while the row is read again. */
  readonly history: { readonly isOpen: boolean; readonly setOpen: (open: boolean) => void };
  /** Reads the rows again. */
  readonly refresh: () => void;
  /** Shows another row in the card. */
  readonly go: (to: { readonly table: string; readonly key: string }) => void;
}
