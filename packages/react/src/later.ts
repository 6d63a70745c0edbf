import { useAnswer, type Answer } from './use-answer.ts';

/** A part of the table's scripts that a page loads when it is first needed. */
export class Later<Part> {
  private readonly load: () => Promise<Part>;
  private known: Part | undefined;
  private loading: Promise<Part> | undefined;

  constructor(load: () => Promise<Part>) {
    this.load = load;
  }

  get = (): Part | undefined => this.known;

  /** Loads it once; after a failure, such as a connection that was away, again. */
  request = (): Promise<Part> => {
    this.loading ??= this.load().then(
      (part) => (this.known = part),
      (thrown: unknown) => {
        this.loading = undefined;
        throw thrown;
      },
    );
    return this.loading;
  };
}

/** A part that is loaded as soon as it is wanted; at once where that was done before. */
export function useLater<Part>(later: Later<Part>, wanted: boolean): Answer<Part> {
  const known = later.get();
  const answer = useAnswer(wanted && known === undefined ? later.request : undefined);
  return known === undefined ? answer : { state: 'ready', result: known };
}
