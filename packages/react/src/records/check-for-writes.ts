/** Ms within which the database's counters may still tell of what was written just now. */
const late = 12_000;

interface ScanProgress {
  /** Asks for the mark of what was written last; null where nobody can tell. */
  readonly check: () => Promise<string | null>;
  /** Whether what was thrown is a refusal, as by a service that does not know the question. */
  readonly isRefused: (thrown: unknown) => boolean;
  /** Ms between two looks. */
  readonly every: number;
  /** When something was written from here, in ms since 1970: that is nobody else's. */
  readonly wroteAt: () => number;
  /** Called once, with the time since when others have written; then nobody looks any more. */
  readonly onChange: (since: Date) => void;
  /** Ends it. */
  readonly signal: AbortSignal;
}

/** Looks again and again, while the page is visible, until others have written. */
export function checkForWrites({
  check,
  isRefused,
  every,
  wroteAt,
  onChange,
  signal,
}: ScanProgress): void {
  let mark: string | null | undefined;
  let since = new Date();
  let wanted: ReturnType<typeof setTimeout> | undefined;
  const checkOnce = async (): Promise<void> => {
    const before = new Date();
    const own = before.getTime() - wroteAt() < late;
    const now = await check();
    if (mark === undefined || (own && now !== mark)) {
      mark = now;
      since = before;
    } else if (now !== mark) {
      onChange(since);
      return;
    }
    // Where writes cannot be detected, nothing is requested again.
    if (now !== null) wanted = setTimeout(whenVisible, every);
  };
  const begin = (): void => {
    if (signal.aborted) return;
    checkOnce().catch((thrown: unknown) => {
      // What is refused will stay so.
      if (!isRefused(thrown) && !signal.aborted) wanted = setTimeout(whenVisible, every);
    });
  };
  /** A page that nobody sees asks nothing until it is visible again. */
  const whenVisible = (): void => {
    if (document.visibilityState === 'visible') begin();
    else document.addEventListener('visibilitychange', whenVisible, { once: true, signal });
  };
  signal.addEventListener('abort', () => clearTimeout(wanted));
  begin();
}
