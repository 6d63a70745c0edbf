/** Of paths: they lead to the host of the page. */
const here = 'https://here.invalid';

/** The scheme of an address as browsers read it (URL standard, 4.4): without blanks and line ends. */
function schemeOf(text: string): string | undefined {
  return URL.canParse(text, here) ? new URL(text, here).protocol : undefined;
}

/** The address of a link: of the web, of a mailbox or a path; undefined for others. A value is no place for a script. */
export function linkAddress(text: string): string | undefined {
  if (/^[^\s@:/?]+@[^\s@:/?]+$/.test(text)) return `mailto:${text}`;
  const scheme = schemeOf(text);
  const isLink = /^(?:https?:|mailto:|\/)/i.test(text);
  return isLink && ['http:', 'https:', 'mailto:'].includes(scheme ?? '') ? text : undefined;
}

/** The address of a picture: of the web, a path, or a picture in the address itself; undefined for others. */
export function pictureAddress(text: string): string | undefined {
  const scheme = schemeOf(text);
  if (scheme === 'http:' || scheme === 'https:') return text;
  return scheme === 'data:' && /^\s*data:image\//i.test(text) ? text : undefined;
}
