import { catalogue, type ProblemCode, type ProblemFacts } from './catalogue.ts';

/** One error of a request. Positions count UTF-16 units of the decoded parameter, from 0. */
export interface Problem {
  readonly code: ProblemCode;
  /** The parameter that holds the error; absent when it concerns no single one. */
  readonly parameter?: string;
  readonly position?: number;
  readonly length?: number;
  /** Of a set of changes: which one, from 0, and the column. */
  readonly change?: number;
  readonly column?: string;
  readonly message: string;
  /** How to mend it, where that can be stated. */
  readonly hint?: string;
}

/** Where in a text something stands: from `start` up to, not including, `end`. */
interface Place {
  readonly start: number;
  readonly end: number;
}

/** Makes a problem from its code and facts; the wording comes from the catalogue. */
export function problem<Code extends ProblemCode>(
  code: Code,
  facts: ProblemFacts<Code>,
  place?: Place,
): Problem {
  // Each entry takes the facts of its own code; the union of entries cannot say so.
  const entry = catalogue[code] as {
    message: (facts: ProblemFacts<Code>) => string;
    hint?: (facts: ProblemFacts<Code>) => string | undefined;
  };
  const hint = entry.hint?.(facts);
  return {
    code,
    ...(place === undefined
      ? {}
      : { position: place.start, length: Math.max(0, place.end - place.start) }),
    message: entry.message(facts),
    ...(hint === undefined ? {} : { hint }),
  };
}

/** The same problems, stated about a parameter. */
export function inParameter(parameter: string, problems: readonly Problem[]): Problem[] {
  return problems.map((one) => ({ ...one, parameter }));
}
