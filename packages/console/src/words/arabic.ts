import { arabic } from '@ephoros/react';
import type { Words } from './words.ts';

/** What tables say in this language. */
export const messages = arabic;

export const words: Words = {
  allTables: 'كل الجداول',
  preferences: 'التفضيلات',
  docs: 'التوثيق',
  connect: 'الشيفرة',
  otherLanguage: 'English',
  secondTable: 'جدول ثانٍ',
  alone: 'إغلاق هذا الجدول',
  language: 'اللغة',
  theme: 'السمة',
  themes: { system: 'النظام', light: 'فاتح', dark: 'داكن' },
  density: 'ارتفاع الصف',
  timeZone: 'المنطقة الزمنية',
  ownTimeZone: (zone) => `كما في المتصفح (${zone})`,
  motion: 'الحركة',
  motions: { system: 'كما في النظام', none: 'بلا حركة' },
  close: 'إغلاق',
  simulation: 'أعطال مُحاكاة',
  simulationHint: 'شُغّلت الخدمة بخيار ‎--simulate‎: تأخذ من هذه النافذة ما يلي بدلًا منه.',
  delay: 'ميلي ثانية قبل كل جواب',
  fail: '٪ من الطلبات تفشل',
  reading: 'قراءة المحتويات …',
  noTables: 'لا جدول تقرؤه الخدمة. امنح دورها SELECT على بعض الجداول ثم أعد التحميل.',
  find: (count) => `ابحث في ${count} جدولًا`,
  findTable: 'البحث عن جدول',
  recent: 'الأخيرة',
  noSuchTable: 'لا جدول بهذا الاسم.',
  first: (title) => `تثبيت ${title}`,
  showFirst: 'تثبيت في الأعلى',
  notFirst: 'إلغاء التثبيت',
  views: 'العروض المحفوظة',
  moreViews: 'والمزيد عند جداولها',
  aView: 'عرض',
  notCounted: 'لم يُعدّ بعد',
  about: (rows) => `نحو ${rows} صف`,
  rows: (count, rows) =>
    count === 1
      ? 'صف واحد'
      : count === 2
        ? 'صفان'
        : count > 2 && count < 11
          ? `${rows} صفوف`
          : `${rows} صفًا`,
  noPage: 'لا صفحة هنا.',
  toTables: 'إلى الجداول',
  readingView: 'قراءة العرض …',
  chooseSecondTable: 'اختر الجدول الثاني',
  signIn: 'تسجيل الدخول',
  signInFirst: 'سجّل الدخول لعرض الجداول.',
  signInUnavailable: 'لا يمكن الوصول الآن إلى حيث يُسجَّل الدخول. حاول بعد قليل.',
  signInRefused: 'لم يتم تسجيل الدخول. حاول مرة أخرى.',
  noWayIn: 'لا يستطيع متصفح تسجيل الدخول هنا: تأخذ الخدمة بكلمة وسيط أو برموز موقّعة.',
  signedOut: 'لم تعد مسجَّل الدخول. ما كنت تفعله يبقى كما هو حتى تعود.',
  goOn: 'متابعة',
  token: 'رمز',
  tokenRefused: 'هذا الرمز غير صالح.',
  letProgram: (name) => `أتسمح لسطر الأوامر على هذا الجهاز بأن يسأل باسم ${name}؟`,
  letProgramHint: 'فقط إن كنت قد طلبت ذلك هناك للتو: ‎ephoros sign-in‎. يدوم ما دمت مسجَّلًا هنا.',
  letProgramFailed: 'لم يُسمح له: لا تأخذ هذه الخدمة رموزًا، أو لم تعد مسجَّل الدخول.',
  allow: 'سماح',
  signOut: 'تسجيل الخروج',
  nothingForRoles: (name) => `أنت مسجَّل باسم ${name}، ولا دور لك يعرض جدولًا.`,
  connectTitle: 'هذا العرض كشيفرة',
  what: 'الطلب',
  query: 'هذا الاستعلام',
  change: 'تغيير',
  example: 'مثال: لا شيء ينتظر الحفظ.',
  asWhat: 'اللغة',
  copy: 'نسخ',
  copied: 'نُسخ',
  copyRefused: 'رفض المتصفح النسخ؛ حدّد النص بنفسك.',
  ways: {
    URL: ['عنوان', 'لمتصفح، أو لأي برنامج يقرأ JSON.'],
    curl: ['curl', 'للطرفية.'],
    fetch: ['fetch', 'JavaScript بلا أي حزمة، في Node أو في صفحة.'],
    Client: ['العميل', 'JavaScript في Node أو في صفحة: npm install @ephoros/client'],
    React: [
      'React',
      'الجدول كاملًا؛ الواجهة تحت ‎/api‎ من أصل الصفحة نفسها: npm install @ephoros/client @ephoros/react react react-dom',
    ],
    Router: [
      'الموجّه',
      'الواجهة في تطبيق Express لك، وهذا العرض مسار بجانبها: npm install @ephoros/service express',
    ],
    Request: ['الطلب', 'ما يُرسل. بمفتاح Idempotency-Key نفسه يُحفظ مرة واحدة مهما تكرر.'],
    'Command line': ['سطر الأوامر', 'npm install @ephoros/cli'],
  },
};
