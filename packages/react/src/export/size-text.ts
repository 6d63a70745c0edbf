const units = ['byte', 'kilobyte', 'megabyte', 'gigabyte', 'terabyte'] as const;

/** So many bytes, as people say it: "12 MB". */
export function sizeText(bytes: number, locale: string): string {
  const step = Math.min(units.length - 1, Math.floor(Math.log10(Math.max(1, bytes)) / 3));
  const size = bytes / 1_000 ** step;
  return size.toLocaleString(locale, {
    style: 'unit',
    unit: units[step] ?? 'byte',
    unitDisplay: step === 0 ? 'long' : 'short',
    maximumFractionDigits: size < 10 && step > 0 ? 1 : 0,
  });
}
