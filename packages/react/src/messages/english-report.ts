import type { ReportMessages } from './report-messages.ts';

export const englishReport: ReportMessages = {
  madeAt: (time) => `Made ${time}`,
  rows: (count) => `${count} rows`,
  firstRows: (shown, all) => `The first ${shown} of ${all} rows`,
  allRows: 'The rows',
  groups: 'Groups',
  firstGroups: (shown) => `Groups, the first ${shown}`,
  count: 'Rows',
  nothing: 'There is no row to show.',
};
