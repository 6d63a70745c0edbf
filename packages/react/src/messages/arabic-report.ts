import type { ReportMessages } from './report-messages.ts';

export const arabicReport: ReportMessages = {
  madeAt: (time) => `أُعدّ في ${time}`,
  rows: (count) => `${count} من الصفوف`,
  firstRows: (shown, all) => `أول ${shown} من ${all} من الصفوف`,
  allRows: 'الصفوف',
  groups: 'المجموعات',
  firstGroups: (shown) => `المجموعات، أول ${shown}`,
  count: 'الصفوف',
  nothing: 'لا صف يُعرض.',
};
