import type { CheckedAggregate } from '../check/index.ts';
import { isNumeric } from '../schema/index.ts';
import { condition, scalar } from './condition.ts';
import { sql, type SQL } from './fragment.ts';
import type { Scope } from './scope.ts';

/**
 * How an aggregate is made in steps: parts of every group of rows; the same parts of groups put
 * together, where they can be; the value out of the parts.
 */
export interface AggregateSteps {
  readonly parts: readonly SQL[];
  /** Of the parts' names, in a coarser group. Undefined where the rows themselves are needed. */
  readonly merge: ((names: readonly SQL[]) => readonly SQL[]) | undefined;
  /** Of what is at a place in the order of the values: which values, and at which places, one a part. */
  readonly ranked?: { readonly of: SQL; readonly places: readonly RankedPlace[] };
  /** `whole` stands for the same of the whole result: the number of its rows, or the parts. */
  readonly value: (names: readonly SQL[], whole: Whole) => SQL;
}

/** The least value at or below which a part of the values lies, or more than that part (`above`). */
interface RankedPlace {
  readonly fraction: string;
  readonly above: boolean;
}

/** A place among values that are counted: `upTo` so many of `all` are at or before it. */
export function isAtPlace({ fraction, above }: RankedPlace, upTo: SQL, all: SQL): SQL {
  return above
    ? sql`${upTo} > ${all} * ${fraction}::numeric`
    : sql`${upTo} >= ${all} * ${fraction}::numeric`;
}

interface Whole {
  /** The rows of a line. */
  readonly rows: SQL;
  /** Something summed over the whole result. */
  readonly sum: (of: SQL) => SQL;
}

/** The parts of all aggregates of a line, by the names that `partNames` gives them. */
export function partsOf(steps: readonly AggregateSteps[]): SQL[] {
  return steps.flatMap(({ parts }, index) =>
    parts.map((part, place) => sql`${part} as ${partName(index, place)}`),
  );
}

/** What the parts of the aggregate at an index are called. */
export function partNames(index: number, steps: AggregateSteps | undefined): readonly SQL[] {
  return (steps?.parts ?? []).map((_part, place) => partName(index, place));
}

/** The names of a line's columns are this program's own. */
export function partName(index: number, place: number): SQL {
  return sql.raw(`p${index}_${place}`);
}

/** The steps of an aggregate over the rows of a scope. */
export function stepsOf(aggregate: CheckedAggregate, scope: Scope): AggregateSteps {
  const steps = stepsOfAll(aggregate, scope);
  const { only } = aggregate;
  if (only === undefined) return steps;
  const test = condition(only, scope);
  return { ...steps, parts: steps.parts.map((part) => sql`${part} filter (where ${test})`) };
}

/** The same, whichever of the rows are meant. */
function stepsOfAll(aggregate: CheckedAggregate, scope: Scope): AggregateSteps {
  const { kind, argument, type, fraction = '0' } = aggregate;
  const float = argument?.type.kind === 'float';
  const plain = argument === undefined ? undefined : scalar(argument, scope);
  // The sum of floats of four bytes would lose digits.
  const of = plain !== undefined && float ? sql`${plain}::float8` : plain;
  const only = ([name = sql`null`]: readonly SQL[]): SQL => name;
  if (of === undefined) {
    // The rows of a line are counted anyway; some of them are not.
    const counted = kind === 'share' && aggregate.only === undefined;
    return {
      parts: counted ? [] : [sql`count(*)`],
      merge: (names) => names.map((name) => sql`sum(${name})::int8`),
      value: (names, { rows, sum }) => {
        if (kind !== 'share') return only(names);
        const part = counted ? rows : only(names);
        return quotient(part, sum(part));
      },
    };
  }
  switch (kind) {
    case 'count':
      return {
        parts: [sql`count(${of})`],
        merge: (names) => names.map((name) => sql`sum(${name})::int8`),
        value: only,
      };
    case 'sum':
    case 'share':
      return {
        parts: [sql`sum(${of})`],
        // The sum of sums of whole numbers would become a decimal.
        merge: (names) =>
          names.map((name) =>
            type.kind === 'integer' ? sql`sum(${name})::int8` : sql`sum(${name})`,
          ),
        value: (names, { sum }) =>
          kind === 'sum' ? only(names) : quotient(only(names), sum(only(names))),
      };
    case 'avg': {
      const cast = float ? sql`float8` : sql`numeric`;
      return {
        parts: [sql`sum(${of})`, sql`count(${of})`],
        merge: (names) => names.map((name) => sql`sum(${name})`),
        value: ([total = sql`null`, count = sql`null`]) =>
          sql`${total}::${cast} / nullif(${count}, 0)::${cast}`,
      };
    }
    case 'min':
    case 'max': {
      const name = kind === 'min' ? sql`min` : sql`max`;
      return {
        parts: [sql`${name}(${of})`],
        merge: (names) => names.map((part) => sql`${name}(${part})`),
        value: only,
      };
    }
    case 'distinct':
      return { parts: [sql`count(distinct ${of})`], merge: undefined, value: only };
    case 'percentile':
      return {
        parts: [discrete(of, fraction)],
        merge: undefined,
        ranked: { of, places: [{ fraction, above: false }] },
        value: only,
      };
    case 'median': {
      const middle = { fraction: '0.5', above: false };
      if (!isNumeric(type)) {
        return {
          parts: [discrete(of, '0.5')],
          merge: undefined,
          ranked: { of, places: [middle] },
          value: only,
        };
      }
      // The two in the middle; the same one twice of an odd number. In the same order, so that both come of
      // one sort; a little more than a half is the next one, up to some billions of rows.
      const upper = sql`percentile_disc(0.5000000001) within group (order by ${of})`;
      return {
        parts: [discrete(of, '0.5'), upper],
        merge: undefined,
        ranked: { of, places: [middle, { ...middle, above: true }] },
        value: ([low = sql`null`, high = sql`null`]) =>
          float
            ? sql`(${low} / 2 + ${high} / 2)`
            : sql`trim_scale((${low}::numeric + ${high}::numeric) * 0.5)`,
      };
    }
    default:
      throw new Error(`no SQL for ${JSON.stringify(kind satisfies never)}`);
  }
}

/** The least value at or below which such a part of the values lies. */
function discrete(of: SQL, fraction: string): SQL {
  // A float of 0.07 times 100 is a little more than 7, which would be the eighth value. What is
  // taken off is less than any share of rows, and more than what floats are out by.
  const exact = fraction === '0.5' ? sql`0.5` : sql`greatest(${fraction}::float8 - 1e-14, 0)`;
  return sql`percentile_disc(${exact}) within group (order by ${of})`;
}

function quotient(part: SQL, whole: SQL): SQL {
  return sql`${part}::float8 / nullif(${whole}, 0)::float8`;
}
