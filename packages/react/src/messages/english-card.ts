import type { CardMessages } from './card-messages.ts';

export const englishCard: CardMessages = {
  close: 'Close',
  previous: 'Previous',
  next: 'Next',
  back: 'Back',
  gone: (key) => `Row ${key} does not exist.`,
  sections: {
    itself: 'Row',
    references: 'References',
    amounts: 'Amounts',
    times: 'Times',
    more: 'Other',
  },
  referring: 'Referenced by',
  openAll: (table) => `Open all ${table.toLowerCase()}`,
  raw: 'Raw values and types',
  copy: (label) => `Copy ${label}`,
  copyShort: 'Copy',
  copied: (label) => `${label} copied`,
  notCopied: 'The browser blocked the clipboard',
};
