import type { Row, RowsAnswer, Value } from './schemas.ts';

/** JSON text of a value, as a database wrote it: it stands in an answer as it is. */
export class JsonText {
  readonly text: string;

  constructor(text: string) {
    this.text = text;
  }

  /** As JavaScript reads it, where all digits are not needed. */
  toJSON(): unknown {
    return JSON.parse(this.text) as unknown;
  }

  /** The same, where an answer has a value: `printAnswer` writes it, nobody else looks inside. */
  static value(text: string): Value {
    return new JsonText(text) as unknown as Value;
  }

  static row(text: string): Row {
    return new JsonText(text) as unknown as Row;
  }

  static rows(text: string): RowsAnswer['rows'] {
    return new JsonText(text) as unknown as RowsAnswer['rows'];
  }
}

/** The JSON text of an answer (RFC 8259); members that are undefined are left out. */
export function printAnswer(answer: unknown): string {
  if (answer instanceof JsonText) return answer.text;
  if (Array.isArray(answer)) return `[${answer.map(printAnswer).join(',')}]`;
  if (answer === undefined) return 'null';
  // `JSON.stringify` drops the sign.
  if (Object.is(answer, -0)) return '-0';
  if (typeof answer !== 'object' || answer === null) return JSON.stringify(answer);
  const members: string[] = [];
  for (const [name, member] of Object.entries(answer)) {
    if (member !== undefined) members.push(`${JSON.stringify(name)}:${printAnswer(member)}`);
  }
  return `{${members.join(',')}}`;
}
