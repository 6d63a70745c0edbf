import type { PrintMessages } from './print-messages.ts';

export const englishPrint: PrintMessages = {
  preparing: (done, of) => `reading what is printed: ${done} of ${of} rows …`,
  cancel: 'Do not print',
  cut: (printed, all) => `The first ${printed} of ${all} rows: more are not printed at once.`,
  failed: 'It cannot be printed: some rows could not be had.',
  printedAt: (time) => `printed ${time}`,
};
