/** A view: a query and how it is shown, as one plain value, and its spellings. */
export {
  changed,
  queryOf,
  savedViewVersion,
  densities,
  heights,
  layouts,
  appearanceParts,
  readings,
  rowStyles,
  type Density,
  type Height,
  type Layout,
  type OpenGroup,
  type Reading,
  type RowStyle,
  type View,
  type ViewChange,
  type ViewPlace,
} from './view.ts';
export {
  printChart,
  printView,
  viewParameters,
  type ViewParameter,
  type ViewTexts,
} from './address.ts';
export { readView, type ReadView } from './read-address.ts';
export { asksOtherRows, namesPainted, printPaint, type PaintRule } from './paint.ts';
export { readPaint } from './read-paint.ts';
export {
  chartKinds,
  chartSides,
  groupingOf,
  type Chart,
  type ChartKind,
  type ChartSide,
} from './chart.ts';
export { savedViewSchema, type SavedView } from './saved-schema.ts';
export { readSavedText, readSavedView } from './read-saved.ts';
export { saveView, showsTheSame } from './saved.ts';
export { viewOfSaved } from './view-of-saved.ts';
export { partsOf, withParts, type ViewPart } from './parts.ts';
export {
  columnOfTerm,
  outlineColumn,
  sortedBy,
  sortMarks,
  sortTermOf,
  withSort,
  type SortMark,
} from './sort.ts';
export { moved, withLevel, withLevels } from './levels.ts';
export { namesIn, namesOf } from './names.ts';
export { namesInView } from './names-in-view.ts';
export { fitView, type FittedView } from './fitting.ts';
export {
  newViewBody,
  viewAnswer,
  viewChangeBody,
  viewsAnswer,
  type ViewAnswer,
  type ViewsAnswer,
  type WantedView,
  type WantedViewChange,
} from './saved-view.ts';
