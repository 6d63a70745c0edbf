import type { Catalog } from '../catalog/index.ts';
import { Failure } from '../run/index.ts';

/** The catalog as it was read last, once for all who ask. */
export class CurrentCatalog {
  private readonly readAnew: () => Promise<Catalog>;
  private reading: Promise<Catalog> | undefined;

  constructor(readAnew: () => Promise<Catalog>) {
    this.readAnew = readAnew;
  }

  /** A failed reading is tried again by the next who asks. @throws ConfigurationError, Failure */
  read = (): Promise<Catalog> => {
    this.reading ??= this.readAnew().catch((thrown: unknown) => {
      this.forget();
      throw thrown instanceof Error && thrown.name === 'ConfigurationError'
        ? thrown
        : Failure.from(thrown);
    });
    return this.reading;
  };

  /** The next who asks has it read again, since the database has changed. */
  forget = (): void => {
    this.reading = undefined;
  };
}
