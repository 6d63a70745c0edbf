/** Costs of PostgreSQL's planner that are got through within a millisecond, to begin with. */
const usual = 200;
/** How much of what was learnt before the last statement changes. */
const weight = 0.3;

/** How long statements take for what the planner says they cost; learnt from those that have run. */
export class CostModel {
  private costPerMillisecond = usual;

  /** Ms. */
  expect(cost: number): number {
    return cost / this.costPerMillisecond;
  }

  /** Takes in what a statement of a cost took, in ms. */
  learn(cost: number, took: number): void {
    if (took < 50 || cost <= 0) return;
    this.costPerMillisecond += weight * (cost / took - this.costPerMillisecond);
  }

  /** How much of so many ms has gone by; never all of it, since guesses are wrong. */
  static share(elapsed: number, expected: number | undefined): number {
    if (expected === undefined || expected <= 0) return 0;
    const share = elapsed / expected;
    // Up to nine tenths as expected, and slower from there on.
    return share < 0.9 ? share : 1 - 0.1 * Math.exp(-(share - 0.9) * 2);
  }
}
