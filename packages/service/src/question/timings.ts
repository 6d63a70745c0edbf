const stages = ['parse', 'check', 'wait', 'database', 'encode'] as const;

export type Stage = (typeof stages)[number];

/** How long each stage of a request took, in ms. */
export class Timings {
  private readonly spent = new Map<Stage, number>();

  add(stage: Stage, milliseconds: number): void {
    this.spent.set(stage, (this.spent.get(stage) ?? 0) + milliseconds);
  }

  during<Result>(stage: Stage, work: () => Result): Result {
    const began = performance.now();
    try {
      return work();
    } finally {
      this.add(stage, performance.now() - began);
    }
  }

  /** The value of a Server-Timing header (W3C Server Timing). */
  header(): string {
    return stages
      .filter((stage) => this.spent.has(stage))
      .map((stage) => `${stage};dur=${(this.spent.get(stage) ?? 0).toFixed(2)}`)
      .join(', ');
  }
}
