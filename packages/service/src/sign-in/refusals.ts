/** What somebody says of who they are does not hold. The message is for them. */
export class SignInRefused extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'SignInRefused';
  }
}

/** Whether it is valid is not known at the moment: its issuer is unavailable. */
export class SignInUnavailable extends Error {
  constructor(cause: unknown) {
    super('Who is asking cannot be told at the moment.', { cause });
    this.name = 'SignInAway';
  }
}

/** One address has sent too many tokens that did not hold. */
export class TooManyAttempts extends Error {
  /** Seconds. */
  readonly retryAfter: number;

  constructor(retryAfter: number) {
    super('Too many tokens from this address did not hold.');
    this.name = 'TooManyAttempts';
    this.retryAfter = retryAfter;
  }
}
