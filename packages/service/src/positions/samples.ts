import type { Sample } from './position-index.ts';

/** Samples of one result at most; past that every other one goes and the step doubles. */
const most = 16_384;

/** The mileposts of one walk, at even distances, within a bound. */
export class Samples {
  /** Rows from one sample to the next. */
  step: number;
  /** Bytes that they take up, about. */
  bytes = 0;
  private values: Sample['values'][] = [];

  constructor(step: number) {
    this.step = step;
  }

  /** Rows that the samples reach over. */
  get reach(): number {
    return this.values.length * this.step;
  }

  /** Adds the next sample; one that is none any more, since the step has grown, is passed over. */
  add({ number, values }: Sample): void {
    if (number !== this.reach + this.step) return;
    this.values.push(values);
    this.bytes += sizeOf(values);
    if (this.values.length > most) this.thin();
  }

  /** Takes every other sample away. */
  thin(): void {
    this.values = this.values.filter((_values, index) => index % 2 === 1);
    this.step *= 2;
    this.bytes = this.values.reduce((sum, one) => sum + sizeOf(one), 0);
  }

  /** The last sample with at most `offset` rows up to and with its own. */
  before(offset: number): Sample | undefined {
    return this.at(Math.min(this.values.length, Math.floor(offset / this.step)) - 1);
  }

  /** Up to `count` samples at even distances. */
  even(count: number): readonly Sample[] {
    const shown = Math.min(count, this.values.length);
    return Array.from({ length: shown }, (_, index) => {
      const at = shown === 1 ? 0 : Math.round((index * (this.values.length - 1)) / (shown - 1));
      return this.at(at);
    }).filter((sample) => sample !== undefined);
  }

  private at(index: number): Sample | undefined {
    const values = this.values[index];
    return values === undefined ? undefined : { number: (index + 1) * this.step, values };
  }
}

// A list, and its strings with what the engine keeps next to each.
function sizeOf(values: Sample['values']): number {
  return values.reduce((sum, value) => sum + 32 + (value?.length ?? 0) * 2, 64);
}
