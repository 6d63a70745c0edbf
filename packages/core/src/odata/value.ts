import type { EdmType } from './edm.ts';

/** How numbers stand in an answer. */
export interface ValueForm {
  /** Whether 64-bit whole numbers and decimals are strings (JSON Format 4.01, 3.2). */
  readonly ieee754Compatible: boolean;
}

const special: Readonly<Record<string, string>> = { Infinity: 'INF', '-Infinity': '-INF' };

/**
 * The JSON text of a value (OData JSON Format 4.01, 7.1) from what our own answers have in its place. What a type of
 * OData cannot hold is null: infinite dates, and midnight as the end of a day.
 */
export function printValue(value: unknown, type: EdmType, form: ValueForm): string {
  if (value === null || value === undefined) return type.isCollection ? '[]' : 'null';
  if (type.isCollection) {
    const member = { ...type, isCollection: false };
    // Lists in lists are not known there: their members follow each other.
    const members = Array.isArray(value) ? value.flat(Infinity) : [];
    return `[${members.map((one: unknown) => printValue(one, member, form)).join(',')}]`;
  }
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  switch (type.name) {
    case 'Edm.Int64':
    case 'Edm.Decimal': {
      const isNumber = /^-?\d/.test(text);
      return isNumber && !form.ieee754Compatible ? text : JSON.stringify(special[text] ?? text);
    }
    case 'Edm.Single':
    case 'Edm.Double':
      return typeof value === 'string'
        ? JSON.stringify(special[value] ?? value)
        : JSON.stringify(value);
    case 'Edm.Date':
      return textOrNull(dateOf(text));
    case 'Edm.DateTimeOffset':
      return textOrNull(momentOf(text));
    case 'Edm.TimeOfDay':
      return text.startsWith('24') ? 'null' : JSON.stringify(value);
    case 'Edm.Binary':
      return JSON.stringify(text.replaceAll('+', '-').replaceAll('/', '_').replace(/=+$/, ''));
    case 'Edm.String':
      return JSON.stringify(text);
    case 'Edm.Boolean':
    case 'Edm.Guid':
    case 'Edm.Int16':
    case 'Edm.Int32':
      return JSON.stringify(value);
    default:
      throw new Error(`no value of ${JSON.stringify(type.name satisfies never)}`);
  }
}

function textOrNull(text: string | undefined): string {
  return text === undefined ? 'null' : JSON.stringify(text);
}

/** Years before Christ count from 0 (ISO 8601), not from 1 as PostgreSQL writes them. */
function dateOf(text: string): string | undefined {
  if (text.endsWith('infinity')) return undefined;
  if (!text.endsWith(' BC')) return text;
  const [year = '', ...rest] = text.slice(0, -3).split('-');
  const before = Number(year) - 1;
  return `${before === 0 ? '' : '-'}${String(before).padStart(4, '0')}-${rest.join('-')}`;
}

function momentOf(text: string): string | undefined {
  const isBefore = text.endsWith(' BC');
  const [, day, clock = ''] = /^(\S+?)[T ](\d\d:\d\d:\d\d(?:\.\d+)?)/.exec(text) ?? [];
  const date = day === undefined ? undefined : dateOf(isBefore ? `${day} BC` : day);
  return date === undefined ? undefined : `${date}T${clock}Z`;
}
