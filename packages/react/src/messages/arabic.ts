import { arabicSentence } from './arabic-sentence.ts';
import type { Messages } from './messages.ts';

const plural = new Intl.PluralRules('ar');

/** A number of rows: one, two, a few, many each have a form of their own. */
function rowCount(count: number, written: string): string {
  switch (plural.select(count)) {
    case 'one':
      return 'صف واحد';
    case 'two':
      return 'صفان';
    case 'few':
      return `${written} صفوف`;
    case 'many':
      return `${written} صفًا`;
    default:
      return `${written} صف`;
  }
}

export const arabic: Messages = {
  language: 'ar',
  direction: 'rtl',
  missing: 'لا قيمة',
  yes: 'نعم',
  no: 'لا',
  emptyText: 'فارغ',
  emptyList: 'قائمة فارغة',
  sentence: arabicSentence,
  sortHint: (label) => `${label}: ترتيب (مع Shift: كمعيار إضافي)`,
  sortAscending: 'من الأصغر إلى الأكبر',
  sortDescending: 'من الأكبر إلى الأصغر',
  sortNot: 'بدون ترتيب حسبه',
  about: (label) => `حول ${label}`,
  columns: 'الأعمدة',
  pin: 'إبقاؤه ظاهرًا',
  unpin: 'تركه يتحرك',
  hide: 'إخفاء',
  earlier: 'تقديم',
  later: 'تأخير',
  width: 'العرض',
  search: 'بحث',
  condition: 'الصفوف التي فيها فقط',
  contains: 'يحتوي على',
  equals: 'يساوي',
  from: 'من',
  to: 'إلى',
  anyValue: 'أي قيمة',
  onlyMissing: 'بلا قيمة',
  notMissing: 'له قيمة',
  otherCondition: 'شرط آخر سارٍ',
  apply: 'تطبيق',
  clear: 'مسح',
  open: 'فتح',
  close: 'إغلاق',
  emptyGroup: 'لم يبق شيء في هذه المجموعة',
  loading: 'جارٍ التحميل …',
  noRows: 'لا توجد صفوف.',
  nothingMatches: 'لا يوجد صف مطابق.',
  failed: (reason) => `تعذر عرض الصفوف: ${reason}`,
  away: 'الخدمة غير متاحة؛ ستعاد المحاولة بعد قليل.',
  tryAgain: 'إعادة المحاولة',
  row: (number) => `الصف ${number}`,
  rows: (first, last, total) =>
    total === undefined ? `الصفوف ${first} إلى ${last}` : `الصفوف ${first} إلى ${last} من ${total}`,
  lines: (first, last, total) =>
    total === undefined ? `السطور ${first} إلى ${last}` : `السطور ${first} إلى ${last} من ${total}`,
  nearly: (total) => `نحو ${total}`,
  kept: (maxRows) => `محفوظة هنا، ككل نتيجة لا تتجاوز ${maxRows} صف`,
  noValue: 'بلا قيمة',
  without: (label) => `بلا ${label}`,
  unreadable: (label) => `تتعذر قراءة ${label} الآن`,
  reading: (label, percent, indexed) =>
    `${indexed ? '' : `لا فهرس على ${label}: `}تُقرأ قيم ${label}${percent === undefined ? ' …' : `، ${percent} %`}`,
  pages: 'الصفحات',
  firstPage: 'الأولى',
  previousPage: 'السابقة',
  nextPage: 'التالية',
  lastPage: 'الأخيرة',
  page: (page, count) => (count === undefined ? `الصفحة ${page}` : `الصفحة ${page} من ${count}`),
  pageSize: 'صفوف في الصفحة',
  selectRow: 'اختيار هذا الصف',
  selectWindow: 'اختيار الصفوف المعروضة',
  selected: (count, written) => `المختار: ${rowCount(count, written)}`,
  clearSelection: 'إلغاء الاختيار',
};
