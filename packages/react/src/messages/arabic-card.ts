import type { CardMessages } from './card-messages.ts';

export const arabicCard: CardMessages = {
  close: 'إغلاق',
  previous: 'السابق',
  next: 'التالي',
  back: 'رجوع',
  gone: (key) => `لا يوجد صف ${key}، أو لم يعد موجودًا.`,
  sections: {
    itself: 'الصف',
    references: 'يشير إلى',
    amounts: 'المقادير',
    times: 'الأوقات',
    more: 'غير ذلك',
  },
  referring: 'تشير إليه',
  openAll: (table) => `كل ما يشير إليه من ${table}`,
  raw: 'القيم كما هي وأنواعها',
  copy: (label) => `نسخ ${label}`,
  copyShort: 'نسخ',
  copied: (label) => `نُسخ ${label}`,
  notCopied: 'لم يسمح المتصفح بالنسخ',
};
