import type { CardMessages } from './card-messages.ts';

export const englishCard: CardMessages = {
  close: 'close',
  previous: 'previous',
  next: 'next',
  back: 'back',
  gone: (key) => `There is no row ${key}, or none any more.`,
  sections: {
    itself: 'The row',
    references: 'Refers to',
    amounts: 'Amounts',
    times: 'Times',
    more: 'Further',
  },
  referring: 'Referred to by',
  openAll: (table) => `all of these ${table.toLowerCase()}`,
  raw: 'raw values and types',
  copy: (label) => `Copy ${label}`,
  copyShort: 'copy',
  copied: (label) => `${label} is copied`,
  notCopied: 'The browser did not let it be copied',
};
