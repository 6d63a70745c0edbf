import { arabicEditors } from './arabic-editors.ts';
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

/** What the service says in English has its words loaded behind the rest. */
let problems: typeof import('./arabic-problems.ts') | undefined;
void import('./arabic-problems.ts').then(
  (loaded) => {
    problems = loaded;
  },
  () => undefined,
);

export const arabic: Messages = {
  language: 'ar',
  direction: 'rtl',
  translate: (text) => problems?.translate(text) ?? text,
  missing: 'لا قيمة',
  yes: 'نعم',
  no: 'لا',
  emptyText: 'فارغ',
  emptyList: 'قائمة فارغة',
  sentence: arabicSentence,
  editors: arabicEditors,
  keys: 'اختصارات لوحة المفاتيح',
  margin: 'الصف',
  openRow: 'فتح الصف',
  card: async () => (await import('./arabic-card.ts')).arabicCard,
  menu: async () => (await import('./arabic-menu.ts')).arabicMenu,
  editing: async () => (await import('./arabic-editing.ts')).arabicEditing,
  views: 'العروض',
  fixedCondition: 'هذا الشرط من الجدول نفسه ولا يُحذف.',
  build: 'منشئ التصفية',
  builder: async () => (await import('./arabic-builder.ts')).arabicBuilder,
  chart: 'رسم',
  charts: async () => (await import('./arabic-chart.ts')).arabicChart,
  printing: async () => (await import('./arabic-print.ts')).arabicPrint,
  scanMessages: async () => (await import('./arabic-scan.ts')).arabicScan,
  exportLabel: 'تصدير',
  exportMessages: async () => (await import('./arabic-export.ts')).arabicExport,
  appearance: 'المظهر',
  layout: async () => (await import('./arabic-layout.ts')).arabicLayout,
  savedViews: async () => (await import('./arabic-saved-views.ts')).arabicSavedViews,
  requestLog: 'الطلبات',
  requestLogMessages: async () => (await import('./arabic-request-log.ts')).arabicRequestLog,
  sortHint: (label) => `ترتيب حسب ${label} (مع Shift: كمعيار إضافي)`,
  sortWays: {
    text: ['ترتيب من الألف إلى الياء', 'ترتيب من الياء إلى الألف'],
    time: ['ترتيب الأقدم أولًا', 'ترتيب الأحدث أولًا'],
    number: ['ترتيب الأصغر أولًا', 'ترتيب الأكبر أولًا'],
    other: ['ترتيب تصاعدي', 'ترتيب تنازلي'],
  },
  sortNot: 'إلغاء الترتيب',
  columns: 'الأعمدة',
  pin: 'تثبيت في البداية',
  pinEnd: 'تثبيت في النهاية',
  unpin: 'إلغاء التثبيت',
  hide: 'إخفاء',
  earlier: 'تقديم',
  later: 'تأخير',
  width: 'العرض',
  fit: 'ملاءمة للمحتوى',
  where: 'تصفية',
  search: 'بحث',
  apply: 'تطبيق',
  clear: 'مسح',
  conditionOn: (label) => `تصفية ${label}`,
  open: 'فتح',
  close: 'إغلاق',
  emptyGroup: 'لا صفوف في هذه المجموعة',
  all: 'الكل',
  rowsIn: (count) => `عدد الصفوف: ${count}`,
  groupedBy: 'مجمعة حسب',
  levels: 'المستويات',
  levelPlace: (label, level, levels) => `${label}، المستوى ${level} من ${levels}`,
  levelHint: 'اسحبه، أو Shift مع ← →؛ Delete يزيله',
  levelMoved: (label, level, levels) => `${label} في المستوى ${level} من ${levels}`,
  dropLevel: (label) => `إلغاء التجميع حسب ${label}`,
  openLevel: 'توسيع مستوى',
  closeAll: 'طي الكل',
  signs: {
    count: 'عدد',
    distinct: 'مختلفة',
    sum: 'مجموع',
    avg: 'متوسط',
    min: 'أصغر',
    max: 'أكبر',
    median: 'وسيط',
    percentile: 'مئين',
    share: 'حصة',
  },
  quarter: (quarter, year) => `الربع ${quarter}${year === undefined ? '' : ` من ${year}`}`,
  week: (week) => `الأسبوع ${week}`,
  weekOf: (day) => `أسبوع ${day}`,
  refresh: 'تحديث',
  loading: 'جارٍ التحميل …',
  noRows: 'لا صفوف',
  noLines: 'لا سطور',
  emptyTable: (title) => `لا شيء في ${title}.`,
  nothingWritten: 'لم يُكتب فيه أي صف بعد.',
  nothingMatches: 'لا يوجد صف مطابق.',
  conditionsLeaveNone: 'توجد صفوف، لكن الشروط لا تبقي منها شيئًا.',
  dropConditions: 'مسح التصفية',
  refused: 'هذا الطلب غير صالح.',
  conditionRefused: 'في التصفية خطأ.',
  leaveOut: 'إزالته',
  notShown: 'تعذر التحميل.',
  someNotShown: 'تعذر تحميل بعض الصفوف:',
  request: (id) => `الطلب ${id}`,
  tryAgain: 'إعادة المحاولة',
  tryNow: 'المحاولة الآن',
  tryingAgain: (seconds) =>
    seconds === undefined ? 'تُعاد المحاولة …' : `تُعاد المحاولة بعد ${seconds} ث.`,
  row: (number) => `الصف ${number}`,
  rows: (first, last, total) =>
    total === undefined ? `الصفوف ${first} إلى ${last}` : `الصفوف ${first} إلى ${last} من ${total}`,
  moreToCome: 'وبعدها المزيد',
  lines: (first, last, total) =>
    total === undefined ? `السطور ${first} إلى ${last}` : `السطور ${first} إلى ${last} من ${total}`,
  nearly: (total) => `نحو ${total}`,
  inMemory: (maxRows) => `في الذاكرة (النتائج حتى ${maxRows} صف)`,
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
  earlierPages: 'صفحات سابقة',
  laterPages: 'صفحات لاحقة',
  toPage: 'الانتقال إلى الصفحة',
  toRow: 'الانتقال إلى الصف',
  readingPages: (size) => `${size} في الصفحة`,
  readingMore: (size) => `${size}، ثم «تحميل المزيد»`,
  readingAll: (count) => `كل الصفوف (${count}) في صفحة واحدة`,
  moreRows: (size) => `تحميل ${size} أخرى`,
  backToStart: 'من البداية',
  changedSince: (time) => `تغيّر منذ ${time}`,
  showChanged: 'عرض',
  readingScroll: 'تمرير متواصل',
  notCounted: { estimate: '، العدد: تقدير', none: '، العدد: بلا' },
  selectRow: 'اختيار هذا الصف',
  selectGroup: 'اختيار صفوف هذه المجموعة',
  selectWindow: 'اختيار الصفوف المعروضة',
  underOtherFilter: 'بشرط آخر',
  searchNotCombined: 'لا يمكن الجمع بين صفوف البحث وصفوف أخرى. ألغِ التحديد أولًا.',
  selectedOf: (count, written, table) => `المختار من ${table}: ${rowCount(count, written)}`,
  onlyThese: 'عرض هذه وحدها',
  selectAll: (written) => `اختيار الكل (${written})`,
  tooManyKeys: (most) => `لا يُختار واحدًا واحدًا أكثر من ${most} صف. ضع شرطًا ثم اختر كل ما يطابقه.`,
  doneOf: (done, of) => `${done} من ${of}`,
  goneRows: (count, written) => `لم يعد موجودًا منها: ${rowCount(count, written)}`,
  clearSelection: 'إلغاء الاختيار',
};
