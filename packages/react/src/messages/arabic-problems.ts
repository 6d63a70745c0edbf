import { catalogue, type ProblemCode } from '@ephoros/core/problem';

/** What each problem says. Facts stand in braces, by their names in the catalogue. */
const messages: Readonly<Record<ProblemCode, string>> = {
  'unknown-parameter': 'لا معامل باسم {name} هنا.',
  'repeated-parameter': 'المعامل {name} مذكور أكثر من مرة.',
  'malformed-escape': 'علامة النسبة هنا لا تبدأ ترميز UTF-8 صحيحًا.',
  'parameter-too-long': 'هذا المعامل أطول من {most} حرف.',
  'forbidden-character': 'لا يحمل النص حرف NUL ولا نصف زوج من الحروف البديلة.',
  'conflicting-parameters': 'واحد فقط من {names} يقول أين البداية.',
  'relevance-needs-search': 'لا صلة للصفوف إلا ببحث بكلمات لغة.',
  'nothing-searchable': 'لا عمود يُبحث فيه في الجدول {table}.',
  'malformed-body': 'جسم الطلب ليس {expected}.',
  'malformed-view': 'يُنتظر هنا {expected}.',
  'newer-view': 'حُفظ هذا العرض بإصدار أحدث من البرنامج ({version}؛ والمعروف حتى {known}).',
  'unknown-view': 'لا عرض محفوظًا هنا.',
  'not-your-view': 'هذا العرض مشارك معك، وليس لك أن تغيّره.',
  'view-name-taken': 'لديك عرض للجدول {table} بهذا الاسم.',
  'view-changed': 'تغيّر هذا العرض في أثناء ذلك؛ لم يُكتب فوق شيء.',
  'if-match-needed': 'يُغيَّر العرض المحفوظ حيث بقي كما قُرئ.',
  'view-part-hidden': 'جزء من هذا العرض ({part}) يتحدث عما لا تراه.',
  'too-many-views': 'لا يُحفظ لواحد أكثر من {most} عرضًا للجدول.',
  'export-too-long': 'للملف {most} من الصفوف على الأكثر، وهذه {rows}.',
  'repeated-member': 'العضو {name} وارد هنا مرتين.',
  'explain-not-allowed': 'لا شروح هنا.',
  'malformed-cursor': 'ليس هذا مؤشرًا من هذا الجدول.',
  'no-records': 'لا يُحفظ شيء هنا: لا مكان للسجلات لدى الخدمة.',
  'no-caller': 'هذا يخص صاحبه، وقواعد الوصول لا تسمّي أحدًا.',
  'unknown-selection': 'لا اختيار كهذا لك، أو لم يعد موجودًا.',
  'nested-selection': 'لا يقف اختيار محفوظ في شرط اختيار آخر.',
  'selection-of-another-table': 'هذا الاختيار لصفوف {table}.',
  'selection-outdated': 'لم يعد الاختيار يلائم الجدول: {message}',
  'cursor-of-another-sort': 'هذا المؤشر لترتيب آخر.',
  'cursor-row-gone': 'الصف الذي يقف عنده هذا المؤشر لم يعد موجودًا.',
  'cursor-needs-key': 'لا مفتاح للجدول {table}، فلا موضع ثابت بجانب صف.',
  'not-a-whole-number': 'يُنتظر هنا عدد صحيح من {least} إلى {most}.',
  'not-one-of': 'يُنتظر هنا واحد من {allowed}.',
  'empty-list-item': 'ينقص اسم بين فاصلتين.',
  'repeated-column': 'العمود {name} مذكور مرتين.',
  'unknown-table': 'لا جدول باسم {name} هنا.',
  'unknown-column': 'لا عمود باسم {name} في الجدول {table}.',
  'too-many-related': 'يصل السؤال الواحد عبر {most} مفتاح خارجي على الأكثر.',
  'unknown-relationship': 'لا جدول باسم {name} يشير إلى {table}.',
  'not-sortable': 'ليس للعمود {name} ({type}) ترتيب.',
  'not-filterable': 'لا يُستعمل العمود {name} ({type}) في شرط.',
  'unexpected-token': 'يُنتظر {expected}، وهنا {found}.',
  'unexpected-end': 'ينتهي النص حيث يُنتظر {expected}.',
  'unexpected-character': 'لا معنى لهذا الحرف في شرط.',
  'unclosed-quote': 'علامة الاقتباس {quote} المفتوحة هنا لا تُغلق.',
  'nested-too-deep': 'الشرط متداخل أكثر من {most} مستوى.',
  'too-many-parts': 'في الشرط أكثر من {most} جزء: أعمدة وقيم وشروط.',
  'too-many-members': 'تحمل القائمة {most} عضوًا على الأكثر.',
  'null-literal': 'ليست NULL قيمة تُقارن.',
  'not-a-condition': 'يُنتظر هنا شرط، وهذا {found}.',
  'not-a-value': 'يُنتظر هنا عمود أو قيمة، وهذا شرط.',
  'type-mismatch': 'يُنتظر هنا {expected}، ووُجد {found}.',
  'not-comparable': 'لا يُسأل عن العمود {name} ({type}) إلا بـ IS NULL.',
  'invalid-value': 'ليست هذه قيمة صحيحة من النوع {type}.',
  'unknown-enum-value': 'ليست هذه من قيم {type}.',
  'number-out-of-range': 'يقع هذا العدد خارج ما بين {least} و{most}.',
  'unknown-function': 'لا دالة باسم {name}.',
  'needs-unicode': 'تحتاج {name} إلى قاعدة بيانات تحفظ نصوصها بترميز UTF-8؛ وهذه ليست كذلك.',
  'wrong-argument-count': 'تأخذ {name} ‏{expected}، وهنا {found}.',
  'invalid-bin': 'عرض الفئة هو {expected}.',
  'unknown-time-zone': 'ليس هذا اسم منطقة زمنية.',
  'not-groupable': 'لا تُجمَّع الصفوف بحسب {name} ({type}).',
  'group-without-column': 'تُجمَّع الصفوف بحسب عمود، أو دالة من عمود.',
  'missing-group': 'لا شيء يقول بحسب ماذا تُجمَّع الصفوف.',
  'too-many-levels': 'تُجمَّع الصفوف على {most} مستوى على الأكثر.',
  'repeated-term': '{name} مذكور مرتين.',
  'path-too-long': 'لهذه المستويات {most} فوق آخرها على الأكثر.',
  'unknown-aggregate': 'ليس هذا تجميعًا.',
  'not-aggregable': 'لا {aggregate} للعمود {name} ({type}).',
  'too-many-aggregates': 'يسأل الطلب الواحد عن {most} تجميعًا على الأكثر.',
  'not-a-group-sort': 'لا تُرتَّب المجموعات بحسب {name}.',
  'sort-needs-column': 'تُرتَّب الصفوف بحسب أعمدة؛ وليس {name} منها.',
  'no-histogram': 'لا مسافات بين قيم {name}، فلا توزيع لها.',
  'pattern-not-literal': 'يحتاج LIKE إلى نمط بين علامتي اقتباس مفردتين.',
  'pattern-ends-in-escape': 'ينتهي النمط بشرطة ‎\\‎ وحيدة، ويجب أن يتبعها حرف.',
  'malformed-key': 'المفتاح هنا ({expected})؛ وقد أُعطي {found} جزء.',
  'no-key': 'لا مفتاح للجدول {table}، فلا عنوان لصف وحده.',
  'unknown-row': 'لا صف بهذا المفتاح في الجدول {table}.',
  'not-implemented': 'غير مدعوم هنا: {what}.',
  'too-many-changes': 'تحمل المجموعة الواحدة {most} تغييرًا على الأكثر.',
  'not-changeable': 'لا تُغيَّر صفوف {table} هنا.',
  'change-not-allowed': 'لا يُسمح لك: {what} {table}.',
  'column-not-writable': 'لا يُسمح لك بالكتابة في {name}.',
  'nothing-to-change': 'لا تُذكر هنا قيمة تُغيَّر.',
  'missing-value': 'يحتاج {name} إلى قيمة.',
  'text-too-long': 'في هذا {found} حرفًا؛ والأكثر {most}.',
  'too-many-decimals': 'منازل عشرية أكثر من اللازم؛ والأكثر {most}.',
  'pattern-mismatch': 'لم يُكتب هذا كما تُكتب قيم هذا العمود.',
  'breaks-rule': '{message}',
  'duplicate-row': 'تغيير آخر من هذه المجموعة عن الصف نفسه.',
  'repeated-ref': 'إضافتان من هذه المجموعة باسم {ref}.',
  'unknown-ref': 'لا إضافة من هذه المجموعة باسم {ref}.',
  'ref-mismatch': 'لا يشير {name} إلى صفوف مثل {ref}.',
  'circular-refs': 'تشير هذه الصفوف الجديدة بعضها إلى بعض في حلقة.',
  'outside-row-rule': 'لن يكون الصف من صفوف {table} التي تراها.',
  'value-taken': 'لصف آخر القيمة نفسها في {names}.',
  'unknown-reference': 'لا صف يشير إليه {names} هذا.',
  'still-referenced': 'ما زالت صفوف من {table} تشير إلى هذا الصف.',
  'undo-affects-others': 'يزيل التراجع عن هذا أو يغيّر صفوفًا من {table} لم تضفها هذه المجموعة.',
  'overlaps-another': 'يعترض هذا صفًا آخر، بسبب {names}.',
  'constraint-broken': 'يخالف هذا القاعدة "{name}" من الجدول.',
  'value-refused': 'لا تأخذ قاعدة البيانات قيمة كهذه هنا.',
  'refused-by-trigger': '{message}',
  'skipped-by-trigger': 'يمنع محفّز في {table} حفظ هذا.',
  'unknown-change-set': 'لا مجموعة تغييرات كهذه لك، أو لم تعد موجودة.',
  'already-undone': 'أُلغيت هذه المجموعة من قبل.',
  'cannot-undo': 'ما كانت عليه صفوف {table} من قبل غير محفوظ كاملًا.',
  'no-history': 'لا يُذكر شيء من التغييرات هنا: لا مكان للسجلات لدى الخدمة.',
  'malformed-idempotency-key': 'في Idempotency-Key من 1 إلى 200 حرف مطبوع.',
  'withdrawn-key': 'سُحب الطلب الذي له هذا المفتاح؛ لا يُحفظ تحته شيء.',
  'key-of-another-set': 'أُرسل هذا المفتاح مع مجموعة أخرى من قبل.',
};

/** How each is mended, where that is stated; what was probably meant is stated about all alike. */
const hints: Readonly<Partial<Record<ProblemCode, string>>> = {
  'unknown-parameter': 'المعروف هنا: {known}.',
  'repeated-parameter': 'اذكره مرة واحدة؛ القوائم تُفصل بفواصل والشروط تُوصل بـ AND.',
  'malformed-escape': 'اكتب علامة النسبة نفسها ‎%25.',
  'conflicting-parameters': 'أبقِ واحدًا منها.',
  'relevance-needs-search': 'ابحث عن شيء في جدول له fullText، أو رتّب بحسب عمود.',
  'newer-view': 'شغّل ذلك الإصدار.',
  'unknown-view': 'ربما حُذف، أو لم يُشارك معك.',
  'not-your-view': 'احفظ نسخة منه باسم لك.',
  'view-name-taken': 'أعطه اسمًا آخر، أو غيّر الموجود.',
  'view-changed': 'اقرأه ثانية، ثم أرسل If-Match: "{version}".',
  'too-many-views': 'احذف بعضها.',
  'explain-not-allowed': 'تُعطى محليًا، أو حيث شُغّلت الخدمة بخيار ‎--explain‎.',
  'malformed-cursor': 'خذ next أو previous من جواب كما هما.',
  'repeated-column': 'احذف الثاني.',
  'repeated-term': 'احذف الثاني.',
  'unknown-relationship': 'الجداول التي تشير إليه: {known}.',
  'unclosed-quote': 'أغلقها بـ {quote}؛ وفي الداخل اكتبها مرتين: {quote}{quote}.',
  'too-many-parts': 'قيم كثيرة لعمود واحد جزء واحد لكل منها في قائمة: IN (…).',
  'null-literal': 'اكتب IS NULL أو IS NOT NULL.',
  'not-a-condition': "قارنه بشيء، مثل = 'x' أو > 5.",
  'invalid-value': 'اكتبها هكذا: {notation}.',
  'unknown-enum-value': 'المسموح: {allowed}.',
  'unknown-function': 'المعروف: {known}.',
  'unknown-aggregate': 'المعروف: {known}.',
  'not-aggregable': 'المسموح: {allowed}.',
  'unknown-time-zone': "اكتب UTC أو اسمًا مثل 'Europe/Paris'.",
  'not-a-group-sort': 'تُرتَّب بقيمتها أو بتجميع: {known}.',
  'no-key': 'تصفّح صفوفه، أو أعطه مفتاحًا أساسيًا.',
  'still-referenced': 'غيّر تلك أو احذفها أولًا.',
  'undo-affects-others': 'غيّر تلك أو احذفها أولًا.',
};

/** What is stated about whole answers, and by the client itself. */
const details: Readonly<Record<string, string>> = {
  'The service cannot reach the database. Try again shortly.':
    'لا يمكن الوصول إلى قاعدة البيانات الآن. حاول بعد قليل.',
  'All database connections are busy. Try again shortly.':
    'كل الاتصالات بقاعدة البيانات مشغولة. حاول بعد قليل.',
  'The query took longer than the time limit. Narrow the filter, sort by an indexed column, or use total=none. `ephoros advise` suggests an index.':
    'تجاوزت قاعدة البيانات المهلة. ضيّق الشرط، أو رتّب بحسب عمود مفهرس، أو اسأل بلا عدّ. أما الفهرس الذي يحتاجه السؤال فيقوله ephoros advise.',
  'The service is still sorting up to this position. Repeat the request; progress shows how far it is.':
    'لا يزال البحث عن صفوف هذا الموضع جاريًا. اسأل ثانية لتعرف كم بقي.',
  'The query is still running. Repeat the request; progress shows how far it is.':
    'يستغرق هذا أطول مما ينتظره الطلب، وهو مستمر. اسأل ثانية لتعرف كم بقي.',
  'The client disconnected before the answer was ready.': 'انصرف السائل قبل أن يجهز الجواب.',
  'The table definition has changed. The service is reading it again. Try again shortly.':
    'لم يعد الجدول كما كان. يُقرأ وصفه من جديد.',
  'The database cannot compute a value of this request, such as a division by zero.':
    'لا تحسب قاعدة البيانات بقيمة من هذا الطلب.',
  'Another transaction holds locks on these rows. Nothing was saved. Try again.':
    'يغيّر شخص آخر الصفوف نفسها منذ مدة. لم يُحفظ شيء. حاول ثانية.',
  'The service could not answer. The log has details under the request id.':
    'لم تستطع الخدمة الجواب. في السجل المزيد تحت رقم الطلب.',
  'This request needs a signed-in caller. Sign in, then try again.':
    'يحتاج هذا إلى سائل معروف. سجّل الدخول ثم اسأل ثانية.',
  'The service runs with --simulate: some requests fail on purpose.':
    'شُغّلت الخدمة بخيار ‎--simulate‎: تفشل بعض الطلبات كي يُرى ذلك.',
  'The service cannot be reached.': 'لا يمكن الوصول إلى الخدمة.',
  'The connection broke in the middle of an answer.': 'انقطع الاتصال في أثناء جواب.',
  'This failure is simulated.': 'هذا الفشل مُحاكى.',
  'Invalid query': 'لا يُجاب عن السؤال كما هو',
  'Changes refused': 'لا تُحفظ التغييرات كما هي',
};

const meant = 'هل تقصد {near}؟';

/** What stands in texts as a kind of thing. */
const nouns: Readonly<Record<string, string>> = {
  'a condition': 'شرط',
  'a number': 'عدد',
  'a text': 'نص',
  'a date': 'تاريخ',
  'a timestamp': 'وقت',
  'a boolean': 'قيمة صواب',
  'a value': 'قيمة',
  'a column': 'عمود',
  'a column or a value': 'عمود أو قيمة',
  'the end of the text': 'نهاية النص',
};

interface Pattern {
  readonly english: RegExp;
  readonly arabic: string;
  /** Characters that are no facts. */
  readonly words: number;
}

/** Facts of which each is its own name between two marks, so that a text shows where it stands. */
function marked(without: readonly string[]): object {
  return new Proxy(
    {},
    {
      get: (_target, name) =>
        without.includes(String(name)) ? undefined : `\u0001${String(name)}\u0002`,
    },
  );
}

function patternOf(template: string, arabic: string): Pattern {
  const named = new Set<string>();
  const source = template
    .replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
    .replace(/\u0001(\w+)\u0002/g, (_all, name: string) => {
      if (named.has(name)) return `\\k<${name}>`;
      named.add(name);
      return `(?<${name}>.+?)`;
    });
  const words = template.replace(/\u0001\w+\u0002/g, '').length;
  return { english: new RegExp(`^${source}$`, 'su'), arabic, words };
}

let patterns: readonly Pattern[] | undefined;

/** What the catalogue says in English, and what stands for it. */
function read(): readonly Pattern[] {
  const codes = Object.keys(catalogue) as ProblemCode[];
  // Where somebody else's words stand in for the catalogue's own, those stay as they are.
  const ofMessages = codes.flatMap((code) => {
    const { message } = catalogue[code] as { message: (facts: object) => string | undefined };
    return [marked([]), marked(['message'])].flatMap((facts) => {
      const template = message(facts) ?? '';
      const words = template.replace(/\u0001\w+\u0002/g, '').trim();
      return words === '' || words.includes('undefined')
        ? []
        : [patternOf(template, messages[code])];
    });
  });
  const ofHints = codes.flatMap((code) => {
    const { hint } = catalogue[code] as { hint?: (facts: object) => string | undefined };
    const template = hint?.(marked(['near', 'hint', 'why']));
    const arabic = hints[code];
    return template === undefined || arabic === undefined ? [] : [patternOf(template, arabic)];
  });
  const all = [...ofMessages, ...ofHints, patternOf('Did you mean \u0001near\u0002?', meant)];
  // What has the most words of its own is meant before what has few.
  return all.sort((one, other) => other.words - one.words);
}

/** A text of the service, or of the client, in Arabic; as it is where nothing stands for it. */
export function translate(text: string): string {
  const known = details[text];
  if (known !== undefined) return known;
  patterns ??= read();
  for (const { english, arabic } of patterns) {
    const found = english.exec(text);
    if (found === null) continue;
    return arabic.replace(/\{(\w+)\}/g, (_all, name: string) => {
      const fact = found.groups?.[name] ?? '';
      return nouns[fact] ?? fact;
    });
  }
  return text;
}
