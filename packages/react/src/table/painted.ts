import type { Row } from '@ephoros/client';
import type { CSSProperties } from 'react';
import type { PlacedColumn } from './column.ts';

const plain = {};

/** What a painted cell has next to its own: a tone, the share of its bar, its place on a scale. */
export function painted(column: PlacedColumn | undefined, row: Row | undefined): object {
  const paint = row && column?.paint?.(row[column.name] ?? null, row);
  if (paint === undefined) return plain;
  const { tone, bar, scale } = paint;
  const share = bar ?? scale;
  const kind = bar === undefined ? 'scale' : 'bar';
  const style = { ...column?.stick, '--eph-share': share } as CSSProperties;
  return { 'data-tone': tone, ...(share !== undefined && { 'data-measure': kind, style }) };
}
