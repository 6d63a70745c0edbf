/** A view: a query and how it is shown, as one plain value, and its spellings. */
export {
  changed,
  queryOf,
  type Density,
  type Layout,
  type OpenGroup,
  type Reading,
  type View,
  type ViewChange,
  type ViewPlace,
} from './view.ts';
export {
  printView,
  readView,
  viewParameters,
  type ReadView,
  type ViewParameter,
  type ViewTexts,
} from './address.ts';
export {
  readSavedView,
  savedViewSchema,
  savedViewVersion,
  saveView,
  type SavedView,
} from './saved.ts';
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
