/** Reports each warning once, however often it is found. */
export class Warnings {
  private readonly reported = new Set<string>();
  private readonly onWarning: (message: string) => void;

  constructor(onWarning: (message: string) => void) {
    this.onWarning = onWarning;
  }

  /** `about` names what the warning is about; of one such thing the first message alone is reported. */
  report(about: string, message: () => string): void {
    if (this.reported.has(about)) return;
    this.reported.add(about);
    this.onWarning(message());
  }
}
