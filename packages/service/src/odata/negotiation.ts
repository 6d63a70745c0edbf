import type { IncomingMessage } from 'node:http';
import { parse, type ContentType } from 'content-type';

/** What a client wants an answer to be written as. */
export interface Negotiated {
  readonly format: 'json' | 'xml' | 'text';
  readonly metadata: 'minimal' | 'none';
  readonly ieee754Compatible: boolean;
}

/** The version that an answer is of: the highest that the client takes. */
export type Version = '4.0' | '4.01';

/** Undefined where the client takes none that there is (Protocol 4.01, 8.2.6). */
export function versionFor({ headers }: IncomingMessage): Version | undefined {
  const most = headers['odata-maxversion'] ?? headers.maxversion;
  if (most === undefined) return '4.01';
  const number = Number.parseFloat(String(most));
  if (!(number >= 4)) return undefined;
  return number >= 4.01 ? '4.01' : '4.0';
}

/**
 * The format of an answer, by `$format` or else by `Accept`; undefined where none of those wanted is there.
 * @param offered formats of the resource, the preferred one first
 */
export function negotiate(
  format: string | undefined,
  { headers }: IncomingMessage,
  offered: readonly Negotiated['format'][],
): Negotiated | undefined {
  const [preferred = 'json'] = offered;
  const wanted = format === undefined ? (headers.accept ?? '*/*') : longName(format);
  const types = typesIn(wanted)
    .filter((one) => weightOf(one) > 0)
    .sort((one, other) => weightOf(other) - weightOf(one));
  for (const type of types) {
    const found = type.type === '*/*' ? preferred : offered.find((one) => fits(type, one));
    const negotiated = found && withParameters(type, found);
    if (negotiated !== undefined) return negotiated;
  }
  return undefined;
}

/** The types that a client takes, in their order (RFC 9110, 12.5.1). */
function typesIn(text: string): readonly ContentType[] {
  const types: ContentType[] = [];
  for (let index = 0; index < text.length;) {
    const type = parse(text, { comma: true, start: index });
    types.push(type);
    index = Math.max(index, type.index) + 1;
  }
  return types;
}

function weightOf({ parameters: { q = '1' } }: ContentType): number {
  return Number(q) || 0;
}

/** A parameter by its name, which OData 4.0 wants with a prefix and 4.01 takes without. */
function parameterOf({ parameters }: ContentType, name: string): string | undefined {
  const found = Object.entries(parameters).find(
    ([written]) => written.toLowerCase().replace(/^odata\./, '') === name,
  );
  return found?.[1].toLowerCase();
}

function longName(format: string): string {
  const names: Readonly<Record<string, string>> = {
    json: 'application/json',
    xml: 'application/xml',
  };
  return names[format.toLowerCase()] ?? format;
}

const mediaTypes: Readonly<Record<Negotiated['format'], readonly string[]>> = {
  json: ['application/json', 'application/*'],
  xml: ['application/xml', 'text/xml'],
  text: ['text/plain', 'text/*'],
};

function fits({ type }: ContentType, format: Negotiated['format']): boolean {
  return mediaTypes[format].includes(type);
}

/** Undefined for what is not written here: all metadata in each answer, or streams in a certain order. */
function withParameters(type: ContentType, format: Negotiated['format']): Negotiated | undefined {
  const metadata = parameterOf(type, 'metadata') ?? 'minimal';
  if (metadata !== 'minimal' && metadata !== 'none') return undefined;
  const ieee754Compatible = parameterOf(type, 'ieee754compatible') === 'true';
  return { format, metadata, ieee754Compatible };
}

/** The rows of a page that a client prefers (Protocol 4.01, 8.2.8.6). */
export function preferredPage({ headers }: IncomingMessage): number | undefined {
  const prefer = String(headers.prefer ?? '');
  const [, size] = /(?:^|[,;\s])(?:odata\.)?maxpagesize\s*=\s*"?(\d{1,9})"?/i.exec(prefer) ?? [];
  const number = Number(size ?? 0);
  return number > 0 ? number : undefined;
}
