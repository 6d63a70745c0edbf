interface Seen {
  readonly first: number;
  readonly last: number;
}

/**
 * Which rows are in view, from 0. They change with every frame of a scroll: only what shows them
 * listens, so that nothing else is drawn again.
 */
export class VisibleRows {
  private request: Seen = { first: 0, last: 0 };
  private readonly listeners = new Set<() => void>();

  get = (): Seen => this.request;

  set = (first: number, last: number): void => {
    this.request = { first, last };
    for (const listener of this.listeners) listener();
  };

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
}
