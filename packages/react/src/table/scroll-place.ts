import { ScrollScale } from '@ephoros/core/window';

/** Ms without movement after which the scroll bar is put right. */
const rest = 120;
/** How much of the rest of its way a turn of the wheel goes in each frame. */
const glide = 0.3;

/** Where a scroller is. A new object whenever it is elsewhere. */
export interface Position {
  /** Pixels of rows above the view. */
  readonly above: number;
  /** The scroller's own height in px. */
  readonly height: number;
  /** Whether it has been moved just now. */
  readonly moving: boolean;
  /** Whether it was moved by more than its height at once, as a drag of the bar does. */
  readonly flying: boolean;
}

/**
 * Keeps the place of a scroller in pixels of rows. The scroll bar, which may be scaled, follows it;
 * what the browser itself scrolls (bar, finger) is followed in turn. Where the bar is scaled the
 * browser's own wheel would fly over rows: there a turn of the wheel moves the rows as it does
 * everywhere else, pixel by pixel.
 */
export class ScrollPlace {
  private element: HTMLElement | undefined;
  private scale = new ScrollScale(0, 1, 1);
  private position: Position = { above: 0, height: 600, moving: false, flying: false };
  // Where the scroller was last found or put.
  private bar = 0;
  // Px that the wheel was turned and the rows have not gone yet: none once they are moved otherwise.
  private turned = 0;
  private frame = 0;
  private resting: ReturnType<typeof setTimeout> | undefined;
  private readonly listeners = new Set<() => void>();

  get = (): Position => this.position;

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Follows an element until it is let go of. */
  attach(element: HTMLElement, signal: AbortSignal): void {
    this.element = element;
    this.resize();
    element.addEventListener('scroll', this.follow, { signal });
    element.addEventListener('wheel', this.turn, { passive: false, signal });
    const observer = new ResizeObserver(this.resize);
    observer.observe(element);
    signal.addEventListener('abort', () => {
      this.element = undefined;
      clearTimeout(this.resting);
      cancelAnimationFrame(this.frame);
      this.frame = 0;
      observer.disconnect();
    });
  }

  /** Another number of rows, or another size, is another scale: what is in view stays there. */
  setScale(scale: ScrollScale): void {
    this.scale = scale;
    const { above } = this.position;
    const remaining = scale.within(above);
    if (remaining !== above || Math.abs(scale.scrollTopFor(remaining) - this.bar) > 1)
      this.put(remaining);
  }

  /** Moves so many pixels of rows above the view, as far as there are so many. */
  moveTo = (above: number): void => {
    this.turned = 0;
    this.put(above);
  };

  /** Moves by so many rows, where it is not at the top; whether it was elsewhere. */
  shift = (rows: number): boolean => {
    const { above } = this.position;
    if (above > 0) this.put(above + rows * this.scale.rowHeight);
    return above > 0;
  };

  /** Moves so that a row is the first in view, as far as there are rows enough below it. */
  goTo = (row: number): void => this.moveTo(row * this.scale.rowHeight);

  /** Moves just as far as a row needs to be visible whole, below so many rows that stay in view. */
  reveal = (row: number, below = 0): void => {
    const { rowHeight, viewHeight } = this.scale;
    const { above } = this.position;
    const top = (row - below) * rowHeight;
    const bottom = (row + 1) * rowHeight - viewHeight;
    if (top < above) this.moveTo(top);
    else if (bottom > above) this.moveTo(bottom);
  };

  private put(above: number): void {
    if (this.element === undefined) return;
    const to = this.scale.within(above);
    this.putBar(to);
    this.pass({ above: to });
  }

  private putBar(above: number): void {
    this.bar = this.scale.scrollTopFor(above);
    if (this.element !== undefined) this.element.scrollTop = this.bar;
  }

  private notify(change: Partial<Position>): void {
    this.position = { ...this.position, ...change };
    for (const listener of this.listeners) listener();
  }

  /** Reports a movement. At rest the bar is put right, rows stand in their order, and no label is wanted any more. */
  private pass(change: Partial<Position>): void {
    this.notify({ ...change, moving: true });
    clearTimeout(this.resting);
    this.resting = setTimeout(() => {
      // Scrolled since, and not reported yet, is one more movement; where it is hidden it is none.
      if (this.element?.clientHeight !== 0 && this.follow()) return;
      this.putBar(this.position.above);
      this.notify({ moving: false, flying: false });
    }, rest);
  }

  private readonly resize = (): void => {
    const height = this.element?.clientHeight ?? 0;
    if (height !== this.position.height) this.notify({ height });
  };

  /** Takes in where the browser has scrolled to; whether that is elsewhere. */
  private readonly follow = (): boolean => {
    const to = this.element?.scrollTop ?? 0;
    const from = this.bar;
    // Put there from here; the browser may have rounded it.
    if (Math.abs(to - from) < 1) return false;
    this.bar = to;
    this.turned = 0;
    const flying = this.position.flying || Math.abs(to - from) > this.scale.viewHeight;
    const above = this.scale.scrolled(this.position.above, from, to);
    this.pass({ above, flying });
    return true;
  };

  private readonly turn = (event: WheelEvent): void => {
    const { deltaX, deltaY, deltaMode } = event;
    if (!this.scale.scaled || event.ctrlKey || event.shiftKey || deltaY === 0) return;
    if (Math.abs(deltaX) > Math.abs(deltaY)) return;
    event.preventDefault();
    const { rowHeight, viewHeight } = this.scale;
    // By pixels, by lines, or by pages.
    this.turned += deltaY * ([1, rowHeight, viewHeight][deltaMode] ?? 1);
    if (this.frame === 0) this.frame = requestAnimationFrame(this.step);
  };

  private readonly step = (): void => {
    const { turned } = this;
    // In whole pixels, so that parts add up to what was turned.
    const part = Math.round(turned * glide) || turned;
    const { above } = this.position;
    const to = this.scale.within(above + part);
    this.turned = to === above ? 0 : turned - part;
    if (to !== above) this.put(to);
    this.frame = this.turned === 0 ? 0 : requestAnimationFrame(this.step);
  };
}
