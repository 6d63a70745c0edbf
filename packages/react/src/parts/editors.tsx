import { lazy } from 'react';

// All editors are one part of a page's scripts, loaded when the first of them is opened.
const editors = (): Promise<typeof import('../editors/index.ts')> => import('../editors/index.ts');

export const AggregateOffer = lazy(async () => ({ default: (await editors()).AggregateOffer }));
export const ColumnSheet = lazy(async () => ({ default: (await editors()).ColumnSheet }));
export const ColumnsEditor = lazy(async () => ({ default: (await editors()).ColumnsEditor }));
export const ConditionOffer = lazy(async () => ({ default: (await editors()).ConditionOffer }));
export const GroupOffer = lazy(async () => ({ default: (await editors()).GroupOffer }));
export const PartEditor = lazy(async () => ({ default: (await editors()).PartEditor }));
export const ReadingEditor = lazy(async () => ({ default: (await editors()).ReadingEditor }));
export const SortOffer = lazy(async () => ({ default: (await editors()).SortOffer }));
