import type { ScanMessages } from './scan-messages.ts';

export const englishScan: ScanMessages = {
  finding: (row, percent) => `Finding row ${row} …${percent === undefined ? '' : ` ${percent} %`}`,
  grouping: (percent) => `Grouping …${percent === undefined ? '' : ` ${percent} %`}`,
  found: (found, rows, of) => `${found} matches in ${rows} of ${of} rows`,
  nothingYet: 'No matches so far.',
  stop: 'Stop',
  goOn: 'Continue',
  stopped: 'Stopped',
};
