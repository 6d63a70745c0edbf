import type { ReportMessages } from './report-messages.ts';

export const englishReport: ReportMessages = {
  madeAt: (time) => `Created ${time}`,
  rows: (count) => `${count} rows`,
  firstRows: (shown, all) => `The first ${shown} of ${all} rows`,
  allRows: 'Rows',
  groups: 'Groups',
  firstGroups: (shown) => `Groups, the first ${shown}`,
  count: 'Rows',
  nothing: 'No rows.',
};
