/** As every runtime has it (URL standard). */
declare const URL: {
  canParse(text: string, base: string): boolean;
  new (
    text: string,
    base: string,
  ): Readonly<Record<'origin' | 'pathname' | 'search' | 'username', string>>;
};

/** A host that no path means. */
const here = 'http://here.invalid';

/**
 * A path of this service, with its search: `/` for everything that a browser would take for another host or scheme,
 * however it is written. The path is checked as URLs are read (URL standard, 4.4): without dots, tabs and line ends,
 * with `\` as `/`.
 */
export function ownPath(text: string | null | undefined): string {
  if (text?.startsWith('/') !== true) return '/';
  const url = URL.canParse(text, here) ? new URL(text, here) : undefined;
  if (url?.origin !== here || url.username !== '') return '/';
  // Read once more, a path of two slashes is a host.
  return url.pathname.startsWith('//') ? '/' : url.pathname + url.search;
}
