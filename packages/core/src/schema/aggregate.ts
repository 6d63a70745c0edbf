import { isComparable, isNumeric, type ColumnType } from './column-type.ts';

/** What is made of many values. `share` is the part of the whole result's count or sum. */
export const aggregateNames = [
  'count',
  'distinct',
  'sum',
  'avg',
  'min',
  'max',
  'median',
  'percentile',
  'share',
] as const;

export type AggregateName = (typeof aggregateNames)[number];

/** How many arguments an aggregate takes, at least and at most. */
export const aggregateArguments: Readonly<Record<AggregateName, readonly [number, number]>> = {
  count: [0, 1],
  distinct: [1, 1],
  sum: [1, 1],
  avg: [1, 1],
  min: [1, 1],
  max: [1, 1],
  median: [1, 1],
  percentile: [2, 2],
  share: [0, 1],
};

export function isAggregateName(name: string): name is AggregateName {
  return aggregateNames.some((one) => one === name);
}

/** Which aggregates there are of values of a type. `count` counts those that are there. */
export function aggregatesOf(type: ColumnType): readonly AggregateName[] {
  if (isNumeric(type)) return aggregateNames;
  switch (type.kind) {
    case 'date':
    case 'timestamp':
      return ['count', 'distinct', 'min', 'max', 'median', 'percentile'];
    case 'text':
    case 'enum':
    case 'time':
    case 'interval':
      return ['count', 'distinct', 'min', 'max'];
    default:
      return isComparable(type) ? ['count', 'distinct'] : ['count'];
  }
}

/** Of numbers that name things, such as keys, no sums are made. */
export function aggregatesOfIdentifier(type: ColumnType): readonly AggregateName[] {
  const numbers: readonly AggregateName[] = ['sum', 'avg', 'median', 'percentile', 'share'];
  return aggregatesOf(type).filter((name) => !numbers.includes(name));
}
