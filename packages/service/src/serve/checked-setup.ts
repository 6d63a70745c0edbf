import type { Pooler } from '../run/index.ts';
import type { ServeOptions } from './serve.ts';

/** What is checked: what the service would be started with. */
export type CheckedSetup = Pick<
  ServeOptions,
  'configuration' | 'connections' | 'host' | 'unprotected' | 'workers'
> & {
  readonly database: string;
  readonly records?: string | undefined;
  readonly changes?: string | undefined;
  readonly direct?: string | undefined;
  readonly pooler?: Pooler | undefined;
  readonly replicas?: readonly string[] | undefined;
};

/** Something that was looked at. */
export interface Finding {
  readonly about: string;
  /** "note": the service starts, and something is slower, off or less safe than it could be. */
  readonly state: 'fine' | 'note' | 'wrong';
  readonly text: string;
  /** What would fix it. */
  readonly fix?: string;
}

/** Notes a finding. */
export type Say = (about: string, state: Finding['state'], text: string, fix?: string) => void;

/** What was thrown, with its causes, in one line. */
export function reasonOf(thrown: unknown): string {
  if (!(thrown instanceof Error)) return String(thrown);
  const { message, cause } = thrown;
  const { code } = thrown as { code?: unknown };
  const text = message === '' && typeof code === 'string' ? code : message;
  return cause === undefined ? text : `${text} (${reasonOf(cause)})`;
}
