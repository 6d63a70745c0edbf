/**
 * How much of what takes long is done, in whole percents, as a locale writes numbers; undefined until there is
 * something to say.
 *
 * @param share 0 to 1
 */
export function percentDone(share: number | undefined, locale: string): string | undefined {
  const percent = Math.floor((share ?? 0) * 100);
  return percent === 0 ? undefined : percent.toLocaleString(locale);
}
