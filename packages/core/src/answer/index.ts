/** Checked question + executor (SQL or memory) → answer; what answers look like. */
export { adviceAnswer, type AdviceAnswer } from './advice-schema.ts';
export {
  answerAggregates,
  answerGroups,
  answerMileposts,
  answerRow,
  answerRows,
  answerValues,
} from './answer.ts';
export type {
  Executor,
  FoundLine,
  FoundLines,
  FoundMileposts,
  FoundRange,
  FoundRows,
  FoundTotal,
} from './executor.ts';
export { JsonText, printAnswer } from './json-text.ts';
export { callerAnswer, type CallerAnswer } from './caller.ts';
export { liveEvents, type LiveChanges, type LiveGrade } from './live.ts';
export { paintSchema } from './paint.ts';
export { fileProgress, type FileProgress } from './file-progress.ts';
export { progress, type Progress } from './progress.ts';
export { linksAround } from './links.ts';
export { MemoryExecutor } from './memory-executor.ts';
export {
  aggregatesAnswer,
  descriptionAnswer,
  groupsAnswer,
  milepostsAnswer,
  rowAnswer,
  rowsAnswer,
  selectionAnswer,
  tablesAnswer,
  valuesAnswer,
  type AggregatesAnswer,
  type GroupLine,
  type GroupsAnswer,
  type MilepostsAnswer,
  type Row,
  type RowAnswer,
  type RowsAnswer,
  type SelectionAnswer,
  type TableList,
  type Value,
  type ValuesAnswer,
  type Window,
  type WindowAnswer,
  type WindowLinks,
} from './schemas.ts';
export { simulationAnswer, writtenAnswer, type WrittenAnswer } from './watching.ts';
