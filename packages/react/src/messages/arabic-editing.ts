import type { EditingMessages } from './editing-messages.ts';

const some = (
  count: number,
  written: string,
  one: string,
  two: string,
  few: string,
  many: string,
): string => {
  if (count === 1) return one;
  if (count === 2) return two;
  return `${written} ${count % 100 >= 3 && count % 100 <= 10 ? few : many}`;
};

export const arabicEditing: EditingMessages = {
  edit: (label) => `${label}: قيمة جديدة`,
  missing: 'بلا قيمة',
  seek: 'بحث',
  nothingFound: 'لا نتائج',
  waiting: (changes, writtenChanges, rows, writtenRows) =>
    `${some(changes, writtenChanges, 'تغيير واحد', 'تغييران', 'تغييرات', 'تغييراً')} في ${some(rows, writtenRows, 'صف واحد', 'صفين', 'صفوف', 'صفاً')}`,
  save: 'حفظ',
  review: 'مراجعة',
  drop: 'تجاهل',
  saving: 'جارٍ الحفظ …',
  savedAgain: 'الخدمة غير متاحة؛ سيُحفظ حالما تعود',
  errors: (count, written) => some(count, written, 'خطأ واحد', 'خطآن', 'أخطاء', 'خطأً'),
  changedByOthers: (count, written) =>
    `${some(count, written, 'صف واحد', 'صفان', 'صفوف', 'صفاً')} غيّره شخص آخر`,
  savedRows: (count, written) => `حُفظ ${some(count, written, 'صف واحد', 'صفان', 'صفوف', 'صفاً')}`,
  unmatched: (count, written) =>
    `${some(count, written, 'صف واحد لم يعد يطابق', 'صفان لم يعودا يطابقان', 'صفوف لم تعد تطابق', 'صفاً لم تعد تطابق')} الشرط`,
  undone: (count, written) =>
    `تم التراجع عن ${some(count, written, 'تغيير واحد', 'تغييرين', 'تغييرات', 'تغييراً')}`,
  notStored: 'لا مكان في المتصفح: تضيع التغييرات غير المحفوظة عند إغلاق الصفحة.',
  fromOtherTabs: (count, written) =>
    `${some(count, written, 'صف واحد', 'صفان', 'صفوف', 'صفاً')} من علامة تبويب أخرى`,
  history: 'السجل',
  noHistory: 'لا تغييرات بعد',
  historyKinds: { add: 'أضاف', change: 'غيّر', remove: 'حذف' },
  byRule: 'مع صف يشير إليه',
  wasUndone: 'تم التراجع عنه',
  undoes: 'بالتراجع',
  undoChanges: (count, written) =>
    `التراجع عن ${some(count, written, 'تغيير واحد', 'تغييرين', 'تغييرات', 'تغييراً')}`,
  showMore: 'عرض المزيد',
  follows: (kind, count, written, table) =>
    `${kind === 'remove' ? 'يُحذف' : 'يُغيَّر'} معها ${some(count, written, 'صف واحد', 'صفان', 'صفوف', 'صفاً')} من ${table}`,
  removeRows: (count, written) => `حذف ${some(count, written, 'صف واحد', 'صفين', 'صفوف', 'صفاً')}`,
  restoreRow: 'إبقاء الصف',
  tooManyToRemove: (most) => `اختر ${most} صف على الأكثر لحذفها معاً.`,
  undo: 'تراجع',
  redo: 'إعادة',
  addRow: 'إضافة صف',
  newRow: 'صف جديد',
  struck: 'يُحذف عند الحفظ',
  was: (value) => `كان ${value}`,
  mine: 'قيمتي',
  theirs: 'قيمتهم',
  gone: 'لم يعد الصف موجوداً.',
  letGo: 'تجاهل',
  goTo: 'إظهار',
  list: 'تغييرات غير محفوظة',
  notPasted: (count, written) =>
    `تعذّر لصق ${some(count, written, 'خلية واحدة', 'خليتين', 'خلايا', 'خلية')}`,
  addPasted: (count, written) =>
    `إضافة ${some(count, written, 'الصف الآخر', 'الصفين الآخرين', 'صفوف أخرى', 'صفاً آخر')}`,
  setSelected: 'تعيين في الصفوف المختارة',
  setColumn: 'العمود',
  setIn: (count, written) => `تعيين في ${some(count, written, 'صف واحد', 'صفين', 'صفوف', 'صفاً')}`,
  otherCount: (count, written) =>
    `لم يُحفظ شيء: صار العدد ${some(count, written, 'صفاً واحداً', 'صفين', 'صفوف', 'صفاً')}.`,
  importRows: 'استيراد',
  file: 'CSV أو NDJSON أو جدول:',
  sheet: 'الورقة:',
  goesInto: (name) => `${name} إلى`,
  leaveOut: 'تخطٍّ',
  line: (number) => `السطر ${number}`,
  addRows: (count, written) => `إضافة ${some(count, written, 'صف واحد', 'صفين', 'صفوف', 'صفاً')}`,
  saveRows: (count, written) => `حفظ ${some(count, written, 'صف واحد', 'صفين', 'صفوف', 'صفاً')}`,
  savedOf: (saved, all) => `حُفظ ${saved} من ${all} صف`,
  stop: 'إيقاف',
  lookingUp: 'البحث عن الأسماء …',
  noRowNamed: (name, table) => `لا صف في ${table} بالاسم أو المفتاح «${name}».`,
  severalNamed: (name, table) =>
    `في ${table} عدة صفوف بالاسم أو المفتاح «${name}». استخدم مفتاح أحدها.`,
  correctedValue: (label, line) => `${label}، ${line}`,
  change: (label) => `تغيير ${label}`,
  changeShort: 'تغيير',
  keys: [
    ['Enter أو F2 أو الكتابة', 'تغيير الخلية؛ والنقر المزدوج كذلك'],
    ['Enter أو Tab', 'أخذ القيمة والمتابعة نزولاً أو جانباً؛ ومع Shift رجوعاً'],
    ['Escape', 'ترك القيمة كما كانت'],
    ['Backspace', 'إفراغ الخلية'],
    ['Delete', 'شطب الصف أو إلغاء الشطب'],
    ['Insert', 'صف جديد في الأعلى'],
    ['Control V و Control D', 'لصق خلايا؛ ملء الخلايا المعلّمة من أولها'],
    ['Control Z و Control Y', 'تراجع وإعادة'],
    ['Control S', 'حفظ'],
  ],
};
