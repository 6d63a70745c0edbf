import type { PrintMessages } from './print-messages.ts';

export const arabicPrint: PrintMessages = {
  preparing: (done, of) => `قراءة ما يُطبع: ${done} من ${of} صف …`,
  cancel: 'إلغاء',
  cut: (printed, all) => `أول ${printed} من ${all} صف: لا يُطبع أكثر منها دفعة واحدة.`,
  failed: 'تتعذر الطباعة: لم تصل بعض الصفوف.',
  printedAt: (time) => `طُبع ${time}`,
};
