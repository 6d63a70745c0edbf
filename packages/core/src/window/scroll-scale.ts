/**
 * Between rows and pixels of a scroller. A browser clamps the height of an element, so past
 * `mostHeight` a pixel of the scroll bar stands for more than a pixel of rows.
 */
export class ScrollScale {
  readonly rowCount: number;
  readonly rowHeight: number;
  readonly viewHeight: number;
  /** The height of the scrolled element in px: what the scroll bar shows. */
  readonly height: number;
  // Pixels of rows, and of scroll bar, that lie before the last position.
  private readonly rowTravel: number;
  private readonly barTravel: number;

  constructor(rowCount: number, rowHeight: number, viewHeight: number, mostHeight = 8_000_000) {
    this.rowCount = rowCount;
    this.rowHeight = rowHeight;
    this.viewHeight = viewHeight;
    const whole = rowCount * rowHeight;
    this.height = Math.min(whole, mostHeight);
    this.rowTravel = Math.max(0, whole - viewHeight);
    this.barTravel = Math.max(0, this.height - viewHeight);
  }

  /** Pixels of rows above the view when the scroller stands at `scrollTop`. */
  rowsAbove(scrollTop: number): number {
    if (this.barTravel === 0) return 0;
    const within = Math.min(Math.max(0, scrollTop), this.barTravel);
    // Unscaled, a pixel is a pixel: no rounding.
    return this.rowTravel === this.barTravel ? within : (within / this.barTravel) * this.rowTravel;
  }

  /** Where the scroller stands when so many pixels of rows lie above the view. */
  scrollTopFor(pixelsAbove: number): number {
    const within = this.within(pixelsAbove);
    return this.rowTravel === this.barTravel ? within : (within / this.rowTravel) * this.barTravel;
  }

  /** Whether a pixel of the scroll bar stands for more than a pixel of rows. */
  get scaled(): boolean {
    return this.rowTravel !== this.barTravel;
  }

  /** So many pixels of rows above the view, at least none, at most all but one view. */
  within(pixelsAbove: number): number {
    return Math.min(Math.max(0, pixelsAbove), this.rowTravel);
  }

  /**
   * Pixels of rows above the view after the scroller went from one place to another. What a
   * finger moves is moved pixel by pixel even where the bar is scaled; what goes further than a
   * view within one event is the bar itself being dragged.
   */
  scrolled(above: number, from: number, to: number): number {
    const distance = to - from;
    if (!this.scaled || Math.abs(distance) > this.viewHeight) return this.rowsAbove(to);
    const moved = this.within(above + distance);
    // At its end the scroller goes no further by itself.
    if (to <= 0 && moved < this.viewHeight) return 0;
    return to >= this.barTravel && moved > this.rowTravel - this.viewHeight
      ? this.rowTravel
      : moved;
  }
}
