/** Questions as they were requested: read, checked, and the windows that answer them. */
export { findTable, readCount, readQuery, readWith, type Parameters } from './reading.ts';
export {
  aggregatesParameters,
  decodePairs,
  decodeParameters,
  exportParameters,
  groupsParameters,
  historyParameters,
  liveParameters,
  milepostParameters,
  noParameters,
  readParameters,
  refuseParameters,
  rowParameters,
  rowsParameters,
  savingParameters,
  valuesParameters,
  viewsParameters,
} from './parameters.ts';
export { mostProblems, Refused } from './refused.ts';
export { Tally } from './tally.ts';
export {
  jsonRowCursor,
  layOut,
  lineCursor,
  linePlaces,
  rowCursor,
  type RowsWindow,
} from './window.ts';
export { printListPlace, readListPlace } from './list-place.ts';
