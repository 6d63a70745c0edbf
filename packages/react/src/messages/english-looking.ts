import type { LookingMessages } from './looking-messages.ts';

export const englishLooking: LookingMessages = {
  finding: (row, percent) => `finding row ${row} …${percent === undefined ? '' : ` ${percent} %`}`,
  grouping: (percent) => `making the groups …${percent === undefined ? '' : ` ${percent} %`}`,
  found: (found, rows, of) => `${found} found in ${rows} of ${of} rows`,
  nothingYet: 'Nothing found so far.',
  stop: 'stop',
  goOn: 'go on',
  stopped: 'stopped',
};
