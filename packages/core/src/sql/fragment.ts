/**
 * Pieces of SQL, put together without text and values ever meeting: what stands in a template
 * between the braces is another piece, or a value to be bound. Names go through `identifier`.
 * Written down once, at the end, in one pass.
 */
export class SQL {
  /** Text and values in turn; two texts never stand side by side. */
  readonly parts: readonly Part[];

  constructor(parts: readonly Part[]) {
    this.parts = parts;
  }

  /** The statement's text, with $1, $2, … for its values, and the values. */
  write(): { text: string; values: (Bound | Open)[] } {
    let text = '';
    const values: (Bound | Open)[] = [];
    for (const part of this.parts) {
      if (typeof part === 'string') text += part;
      else text += `$${values.push(part.value)}`;
    }
    return { text, values };
  }
}

/** What can be bound: a text, a whole number, or a list of texts. */
export type Bound = string | number | readonly string[];

/** A value that is not known yet, by name. */
export interface Open {
  readonly open: string;
}

interface Parameter {
  readonly value: Bound | Open;
}

type Part = string | Parameter;

/** Puts a part behind others; text grows onto text, so that pieces stay short. */
function add(parts: Part[], part: Part): void {
  const last = parts.length - 1;
  const before = parts[last];
  if (typeof part === 'string' && typeof before === 'string') parts[last] = before + part;
  else parts.push(part);
}

function addAll(parts: Part[], piece: SQL): void {
  for (const part of piece.parts) add(parts, part);
}

function template(texts: TemplateStringsArray, ...inner: readonly (SQL | string | number)[]): SQL {
  const parts: Part[] = [];
  // A plain loop: this runs some fifty times for every request.
  for (let index = 0; index < texts.length; index += 1) {
    const text = texts[index];
    if (text !== undefined && text !== '') add(parts, text);
    const one = inner[index];
    if (one === undefined) continue;
    if (typeof one === 'object') addAll(parts, one);
    else add(parts, { value: one });
  }
  return new SQL(parts);
}

/** A piece of SQL from a template. Strings and numbers in it are bound, never written. */
export const sql = Object.assign(template, {
  /** A quoted name. */
  identifier: (name: string): SQL => new SQL([quoted(name)]),
  /** A column of an aliased table, its name quoted; the alias is this program's own. */
  member: (alias: string, name: string): SQL => new SQL([`${alias}.${quoted(name)}`]),
  /** A value to be bound, also a list as one. */
  param: (value: Bound): SQL => new SQL([{ value }]),
  /** A value that is bound later, by its name (see `Template`). */
  open: (name: string): SQL => new SQL([{ value: { open: name } }]),
  /** Pieces with a separator between them. */
  join: (pieces: readonly SQL[], separator?: SQL): SQL => {
    const parts: Part[] = [];
    for (const piece of pieces) {
      if (separator !== undefined && parts.length > 0) addAll(parts, separator);
      addAll(parts, piece);
    }
    return new SQL(parts);
  },
  /** A text as a literal of the statement. Only for what all statements of a shape have alike. */
  literal: (text: string): SQL => new SQL([literal(text)]),
  /** SQL as it stands. Only for what this program itself has written or checked. */
  raw: (text: string): SQL => new SQL([text]),
});

/** All literals pass here; a backslash is one however the session reads it. */
function literal(text: string): string {
  const doubled = text.replaceAll("'", "''");
  return doubled.includes('\\') ? ` E'${doubled.replaceAll('\\', '\\\\')}'` : `'${doubled}'`;
}

/** All names pass here. */
function quoted(name: string): string {
  return name.includes('"') ? `"${name.replaceAll('"', '""')}"` : `"${name}"`;
}
