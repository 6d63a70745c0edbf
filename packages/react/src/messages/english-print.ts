import type { PrintMessages } from './print-messages.ts';

export const englishPrint: PrintMessages = {
  preparing: (done, of) => `Loading rows to print: ${done} of ${of} …`,
  cancel: 'Cancel',
  cut: (printed, all) => `The first ${printed} of ${all} rows. One print has at most these.`,
  failed: 'Printing failed: some rows could not be loaded.',
  printedAt: (time) => `Printed ${time}`,
};
