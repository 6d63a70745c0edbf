import { printExpression, type Expression } from '@ephoros/core/expression';

/** What one caller may see. */
export interface Access {
  /** Who asks, for the log of refusals and failures; never part of an answer. */
  readonly caller?: string;
  /**
   * The tables there are for the caller, by published name; those that are not named, or false,
   * do not exist. The word "all" means every table, whole; without this there is none.
   */
  readonly tables: Readonly<Record<string, TablePart | boolean>> | 'all';
  /** Of the tables that are not named, each; nothing by default. */
  readonly rest?: TableAccess;
  /** What the caller may do next to reading rows and changing them; all by default. */
  readonly may?: Abilities;
  /** What else `/caller` returns about the caller. */
  readonly about?: CallerDetails;
}

/** What `/caller` returns in addition to the name. */
export interface CallerDetails {
  /** What people read; the name by default. */
  readonly title?: string;
  readonly roles?: readonly string[];
  /** Until when the caller is known. */
  readonly expiresAt?: Date;
  /** Whether it can sign out, as a browser can. */
  readonly bySession?: boolean;
}

/**
 * What a caller may see of a table, or several of that, which add up: a value is shown where one of them shows it,
 * else it is null. A set of changes goes by those that let all of it be done to a table: to the rows of any of them.
 */
export type TablePart = TableAccess | readonly TableAccess[];

/** What a caller may do next to reading rows and changing them; what is not named is allowed. */
export interface Abilities {
  /** To take rows out as files. */
  readonly exports?: boolean;
  /** To ask how an answer came about, where everything is visible. */
  readonly explanations?: boolean;
  /** To keep views and open stored ones; "open" is to open those that others have shared. */
  readonly views?: boolean | 'open';
  /** To read `/metrics`. */
  readonly metrics?: boolean;
}

/** What a caller may see of a table; all of it where nothing is stated. */
export interface TableAccess {
  /**
   * Which rows: a filter in the query language. It holds wherever the table is read, also for
   * related rows and for the rows that HAS and COUNT look at. It may use hidden columns.
   */
  readonly rows?: RowRule | string;
  /** The only columns there are for the caller. Without its key a table has no row addresses. */
  readonly columns?: readonly string[];
  /** Columns that there are not for the caller. */
  readonly hidden?: readonly string[];
  /** What the caller may change, of what the configuration allows; all of that by default. */
  readonly changes?: ChangeAccess | false;
}

/** What a caller may change of a table; what is not named is not allowed. */
export interface ChangeAccess {
  readonly add?: boolean;
  /** Values of all columns that can be changed, or of some of them. */
  readonly change?: boolean | readonly string[];
  readonly remove?: boolean;
}

/** A filter that a program has written, its values as literals. */
export interface RowRule {
  readonly text: string;
}

/** A value of the caller's in a row rule. */
export type RuleValue = string | number | bigint | boolean | Date | readonly RuleValue[];

/** The program's rules of access are wrong: a name that there is not, a value that is missing. */
export class AccessError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'AccessError';
  }
}

/** The values of a caller do not fit the rules of their roles, which were found right when the service started. */
export class ClaimsUnfit extends AccessError {
  override name = 'ClaimsUnfit';
}

/**
 * A row rule with the caller's values in it: `` rule`keeper_id = ${user.id}` ``. Values become
 * literals of the filter language and then bound parameters, whatever stands in them; lists
 * stand behind IN. @throws AccessError for null, undefined and an empty list
 */
export function rule(parts: TemplateStringsArray, ...values: readonly RuleValue[]): RowRule {
  return ruleOf(parts, values);
}

/** The same of texts and the values between them. @throws AccessError */
export function ruleOf(parts: readonly string[], values: readonly RuleValue[]): RowRule {
  const text = parts.map((part, index) => {
    const value = values[index];
    return index < values.length ? part + literal(value, part.trim()) : part;
  });
  return { text: text.join('') };
}

const span = { start: 0, end: 0 };

function literal(value: RuleValue | null | undefined, before: string): string {
  if (value === null || value === undefined) {
    throw new AccessError(
      `A row rule needs a value behind "${before}", and there is none (${String(value)}).`,
    );
  }
  if (Array.isArray(value)) {
    if (value.length === 0) {
      throw new AccessError(
        `A row rule needs values behind "${before}": the list is empty. Hide the table instead.`,
      );
    }
    return `(${value.map((one: RuleValue) => literal(one, before)).join(', ')})`;
  }
  return printExpression(asExpression(value, before));
}

/** What is no value of the rule's own would be read as a part of it. @throws AccessError */
function asExpression(value: unknown, before: string): Expression {
  if (typeof value === 'string') return { kind: 'text', value, span };
  if (typeof value === 'boolean') return { kind: 'boolean', value, span };
  if (typeof value === 'bigint') return { kind: 'number', value: String(value), span };
  if (value instanceof Date && !Number.isNaN(value.getTime())) {
    return { kind: 'timestamp', value: value.toISOString(), span };
  }
  if (typeof value === 'number' && Number.isFinite(value)) {
    return { kind: 'number', value: String(value), span };
  }
  const found = typeof value === 'number' || value instanceof Date ? String(value) : typeof value;
  throw new AccessError(
    `A row rule holds texts, numbers, booleans, dates and lists of them behind "${before}", not ${found}.`,
  );
}
