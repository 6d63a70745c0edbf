import { readJson, type JsonNode } from '../expression/index.ts';

/** Levels of nesting of one value. */
const mostLevels = 310;

/**
 * Whether two JSON texts are the same value to a reader of an answer. Members may stand in any order.
 * Numbers are the same where all digits are, or where JavaScript reads the value as the reader's
 * number: that is what a program sends back that has parsed the answer.
 */
export function isSameAnswer(value: string, read: string): boolean {
  if (value === read) return true;
  const [one, other] = [nodeOf(value), nodeOf(read)];
  return one !== undefined && other !== undefined && isSameNode(one, other);
}

/** The value as a reader takes it: of members that are repeated the last one. */
function nodeOf(text: string): JsonNode | undefined {
  try {
    return readJson(text, mostLevels);
  } catch {
    try {
      return readJson(JSON.stringify(JSON.parse(text)), mostLevels);
    } catch {
      return undefined;
    }
  }
}

function isSameNode(value: JsonNode, read: JsonNode): boolean {
  switch (value.kind) {
    case 'object': {
      if (read.kind !== 'object' || value.members.size !== read.members.size) return false;
      return [...value.members].every(([name, member]) => {
        const other = read.members.get(name);
        return other !== undefined && isSameNode(member, other);
      });
    }
    case 'array':
      return (
        read.kind === 'array' &&
        value.items.length === read.items.length &&
        value.items.every((item, index) => {
          const other = read.items[index];
          return other !== undefined && isSameNode(item, other);
        })
      );
    case 'number': {
      if (read.kind === 'null') return !Number.isFinite(Number(value.value));
      if (read.kind !== 'number') return false;
      return (
        isSameNumber(value.value, read.value) || JSON.stringify(Number(value.value)) === read.value
      );
    }
    case 'string':
    case 'boolean':
      return read.kind === value.kind && read.value === value.value;
    case 'null':
      return read.kind === 'null';
    default:
      throw new Error(`no comparison of ${JSON.stringify(value satisfies never)}`);
  }
}

/** Whether two JSON numbers have the same digits, however the point and the exponent stand. */
function isSameNumber(one: string, other: string): boolean {
  return one === other || digitsOf(one) === digitsOf(other);
}

/** Sign, significant digits and power of ten: the same for 1.10 and 11e-1. */
function digitsOf(number: string): string {
  const [, sign = '', whole = '', fraction = '', power = '0'] =
    /^(-?)(\d+)(?:\.(\d+))?(?:[eE]([+-]?\d+))?$/.exec(number) ?? [];
  const digits = `${whole}${fraction}`.replace(/^0+/, '');
  const short = digits.replace(/0+$/, '');
  if (short === '') return '0';
  const shift = BigInt(power) - BigInt(fraction.length) + BigInt(digits.length - short.length);
  return `${sign}${short}e${shift}`;
}
