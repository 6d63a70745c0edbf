import type { LookingMessages } from './looking-messages.ts';

export const englishLooking: LookingMessages = {
  finding: (row, percent) => `Finding row ${row} …${percent === undefined ? '' : ` ${percent} %`}`,
  grouping: (percent) => `Grouping …${percent === undefined ? '' : ` ${percent} %`}`,
  found: (found, rows, of) => `${found} matches in ${rows} of ${of} rows`,
  nothingYet: 'No matches so far.',
  stop: 'Stop',
  goOn: 'Continue',
  stopped: 'Stopped',
};
