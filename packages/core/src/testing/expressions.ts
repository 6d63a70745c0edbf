import fc from 'fast-check';
import type { Expression } from '../expression/index.ts';

const span = { start: 0, end: 0 };

const text = fc.oneof(
  fc.string({ unit: 'binary' }).map((value) => value.replaceAll('\0', '')),
  fc.string({ unit: fc.constantFrom("'", '\\', '"', '%', '_', 'a', ' ', 'é', '🛶') }),
);

const name = fc.oneof(
  fc.constantFrom(
    'toll',
    'lock.name',
    'passed_at',
    'not',
    'In',
    'odd name',
    'a"b',
    'Étang',
    ':x',
    '1st',
  ),
  fc.string({ minLength: 1 }).map((value) => value.replaceAll('\0', '') || 'x'),
);

const number = fc.oneof(
  fc.integer().map(String),
  fc.constantFrom('0.5', '-12.50', '1e6', '1.5E-3', '007', '123456789012345678901234567890.5'),
);

const literal: fc.Arbitrary<Expression> = fc.oneof(
  text.map((value) => ({ kind: 'text' as const, value, span })),
  number.map((value) => ({ kind: 'number' as const, value, span })),
  fc.boolean().map((value) => ({ kind: 'boolean' as const, value, span })),
  fc
    .constantFrom('2024-02-29', 'nonsense')
    .map((value) => ({ kind: 'date' as const, value, span })),
  fc
    .constantFrom('2024-02-29T10:15:00Z')
    .map((value) => ({ kind: 'timestamp' as const, value, span })),
);

const property: fc.Arbitrary<Expression> = name.map((one) => ({
  kind: 'property',
  name: one,
  span,
}));

const bound: fc.Arbitrary<Expression> = fc.oneof(
  fc.constant({ kind: 'unbounded' as const, span }),
  fc.constant({ kind: 'date' as const, value: '2024-02-29', span }),
  fc.constant({ kind: 'timestamp' as const, value: '2024-02-29T10:15:00Z', span }),
  property,
);

/** Any filter at all, whether it means something or not. */
export const expressions: fc.Arbitrary<Expression> = fc.letrec<{
  condition: Expression;
  scalar: Expression;
}>((tie) => ({
  scalar: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    property,
    literal,
    fc
      .tuple(
        fc.constantFrom('casei', 'other'),
        fc.array(tie('scalar'), { minLength: 1, maxLength: 3 }),
      )
      .map(([call, args]) => ({ kind: 'call' as const, name: call, args, span })),
    fc
      .tuple(tie('scalar'), fc.constantFrom('+', '-', '*', '/', '%', 'div', '^'), tie('scalar'))
      .map(([left, operator, right]) => ({
        kind: 'arithmetic' as const,
        operator: operator as '+',
        left,
        right,
        span,
      })),
    fc.tuple(bound, bound).map(([start, end]) => ({ kind: 'interval' as const, start, end, span })),
    fc.tuple(property, fc.array(literal, { maxLength: 3 })).map(([operand, members]) => ({
      kind: 'call' as const,
      name: 'a_contains',
      args: [operand, { kind: 'array' as const, members, span }],
      span,
    })),
    tie('condition'),
  ),
  condition: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc
      .tuple(tie('scalar'), fc.constantFrom('=', '<>', '<', '<=', '>', '>='), tie('scalar'))
      .map(([left, comparator, right]) => ({
        kind: 'comparison' as const,
        comparator: comparator as '=',
        left,
        right,
        span,
      })),
    tie('scalar').map((operand) => ({ kind: 'isNull' as const, operand, span })),
    fc
      .tuple(tie('scalar'), tie('scalar'))
      .map(([operand, pattern]) => ({ kind: 'like' as const, operand, pattern, span })),
    fc
      .tuple(tie('scalar'), tie('scalar'), tie('scalar'))
      .map(([operand, low, high]) => ({ kind: 'between' as const, operand, low, high, span })),
    fc
      .tuple(tie('scalar'), fc.array(tie('scalar'), { minLength: 1, maxLength: 4 }))
      .map(([operand, members]) => ({ kind: 'in' as const, operand, members, span })),
    tie('condition').map((operand) => ({ kind: 'not' as const, operand, span })),
    fc
      .tuple(
        fc.constantFrom('and' as const, 'or' as const),
        fc.array(tie('condition'), { minLength: 2, maxLength: 4 }),
      )
      .map(([kind, operands]) => ({ kind, operands, span })),
  ),
})).condition;

/** A tree without its places, to be compared with another. */
export function withoutPlaces(value: unknown): unknown {
  return JSON.parse(
    JSON.stringify(value, (key, inner: unknown) => (key === 'span' ? undefined : inner)),
  );
}
