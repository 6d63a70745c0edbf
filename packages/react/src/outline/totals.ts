import type { AggregatesAnswer } from '@ephoros/client';
import type { Term } from '@ephoros/core/query';
import { columnOfTerm } from '@ephoros/core/view';
import type { FullReader } from '../format/value.ts';
import type { TableColumn } from '../table/column.ts';
import type { Answer } from '../use-answer.ts';
import { footOf } from './foot.tsx';

/** Room for an aggregate and the word before it, in px. */
const aggregateWidth = 150;

/** A column with room for what is made of it, and what is made of the whole in the foot. */
export function withTotals(
  column: TableColumn,
  terms: readonly Term[],
  totals: Answer<AggregatesAnswer | undefined> | undefined,
  reader: FullReader,
): TableColumn {
  const foot = footOf(totals, terms, reader);
  const width = Math.max(column.width, terms.length * aggregateWidth);
  return { ...column, width, ...(foot === undefined ? {} : { foot }) };
}

/** The terms that are about a column. */
export function termsOf(terms: readonly Term[], name: string): readonly Term[] {
  return terms.filter(({ expression }) => columnOfTerm(expression) === name);
}
