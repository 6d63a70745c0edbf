/** Totals and mileposts of results, made once and in the background. */
export { LocalSurveyor, type SurveyorOptions } from './local.ts';
export type {
  Counting,
  KnownTotal,
  Milepost,
  Surveying,
  Surveyor,
  SurveyState,
} from './question.ts';
export { countingOf, reach, surveyingOf, surveyKey, type Ground, type Way } from './reach.ts';
