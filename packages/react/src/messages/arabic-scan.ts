import type { ScanMessages } from './scan-messages.ts';

export const arabicScan: ScanMessages = {
  finding: (row, percent) =>
    `البحث عن الصف ${row} …${percent === undefined ? '' : ` ${percent} %`}`,
  grouping: (percent) => `تُجمع الصفوف …${percent === undefined ? '' : ` ${percent} %`}`,
  found: (found, rows, of) => `وُجد ${found} في ${rows} من ${of} صف`,
  nothingYet: 'لم يوجد شيء حتى الآن.',
  stop: 'إيقاف',
  goOn: 'متابعة',
  stopped: 'موقوف',
};
