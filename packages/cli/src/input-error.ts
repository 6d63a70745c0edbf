/** What was given cannot be read, or names what there is not. */
export class InputError extends Error {
  readonly exitCode = 2;

  constructor(message: string) {
    super(message);
    this.name = 'InputError';
  }
}
