import { base, en, Faker } from '@faker-js/faker';
import type { Row, Value } from '@ephoros/client';
import type { ColumnDescription, ColumnType } from '@ephoros/core/schema';

/** What is known of a table, for rows that could be of it. */
export interface Sample {
  /** Columns that are to have values. */
  readonly columns: readonly ColumnDescription[];
  /** Rows that are there; may be none. */
  readonly rows: readonly Row[];
  /** Keys of the rows that a column refers to, by its name. */
  readonly references: ReadonlyMap<string, readonly Value[]>;
  /** Columns of the key that need a value of each row's own, with the greatest number that is there. */
  readonly keys: ReadonlyMap<string, Value>;
}

/** Different values of a column up to which they are taken for a list to choose from. */
const fewValues = 40;

/** Makes rows that could be of a table: the same for the same seed. */
export class PlausibleRows {
  private readonly faker: Faker;
  private readonly sample: Sample;
  private readonly makers: ReadonlyMap<string, () => Value>;

  constructor(sample: Sample, seed: number) {
    this.faker = new Faker({ locale: [en, base], seed });
    // Not the clock's: the same rows on another day.
    this.faker.setDefaultRefDate('2026-01-01T00:00:00Z');
    this.sample = sample;
    this.makers = new Map(
      sample.columns.map((column) => [
        column.name,
        sample.keys.has(column.name) ? this.keyOf(column) : this.makerOf(column),
      ]),
    );
  }

  next(): Record<string, Value> {
    return Object.fromEntries([...this.makers].map(([name, make]) => [name, make()]));
  }

  /** A value that no other row has. */
  private keyOf({ name, type }: ColumnDescription): () => Value {
    const { faker } = this;
    if (type.kind === 'integer' || type.kind === 'numeric') {
      const last = this.sample.keys.get(name) ?? 0;
      let next = BigInt(plainWhole(last));
      return () => String((next += 1n));
    }
    if (type.kind === 'text') {
      const length = Math.min(type.maxLength ?? 12, 12);
      return () => faker.string.alphanumeric({ length, casing: 'upper' });
    }
    return this.valueOf(type, name.toLowerCase());
  }

  private makerOf(column: ColumnDescription): () => Value {
    const { faker } = this;
    const observed = this.sample.rows.map((row) => row[column.name] ?? null);
    const there = observed.filter((value) => value !== null);
    const missing = this.shareMissing(column, observed.length, there.length);
    const make = this.valuesOf(column, there);
    return () => (missing > 0 && faker.datatype.boolean(missing) ? null : make());
  }

  /** As many as there are missing already; a few of what may be, where nobody can tell. */
  private shareMissing({ nullable }: ColumnDescription, all: number, there: number): number {
    if (!nullable) return 0;
    return all === 0 ? 0.1 : (all - there) / all;
  }

  private valuesOf(column: ColumnDescription, there: readonly Value[]): () => Value {
    const { faker } = this;
    const keys = this.sample.references.get(column.name);
    if (keys !== undefined) {
      // Those in front come up more often, as in most data.
      return () => keys[Math.floor(keys.length * faker.number.float() ** 2)] ?? null;
    }
    const different = new Set(there.map((value) => JSON.stringify(value)));
    if (there.length > 0 && different.size <= fewValues && different.size < there.length) {
      return () => faker.helpers.arrayElement(there);
    }
    const numbers = there.map(Number);
    if (isNumber(column.type) && numbers.length > 1 && numbers.every(Number.isFinite)) {
      return this.numberAmong(numbers, column.type);
    }
    return this.valueOf(column.type, column.name.toLowerCase());
  }

  /** Between two values that are there: more where there are more. */
  private numberAmong(numbers: readonly number[], type: ColumnType): () => Value {
    const sorted = [...numbers].sort((one, other) => one - other);
    return () => {
      const at = this.faker.number.float({ min: 0, max: sorted.length - 1 });
      const [low = 0, high = low] = sorted.slice(Math.floor(at), Math.floor(at) + 2);
      return written(low + (high - low) * (at % 1), type);
    };
  }

  private valueOf(type: ColumnType, name: string): () => Value {
    const { faker } = this;
    switch (type.kind) {
      case 'integer':
        return () => written(faker.number.int({ min: 0, max: 1000 }), type);
      case 'numeric': {
        const most =
          type.precision === undefined ? 1000 : 10 ** (type.precision - (type.scale ?? 0)) - 1;
        return () => written(faker.number.float({ min: 0, max: Math.min(most, 1000) }), type);
      }
      case 'float':
        return () => faker.number.float({ min: 0, max: 1000, fractionDigits: 3 });
      case 'boolean':
        return () => faker.datatype.boolean();
      case 'date':
        return () => faker.date.past({ years: 5 }).toISOString().slice(0, 10);
      case 'time':
        return () => `${faker.date.anytime().toISOString().slice(11, 19)}${type.zone ? 'Z' : ''}`;
      case 'timestamp':
        return () => {
          const text = faker.date.past({ years: 5 }).toISOString();
          return type.zone ? text : text.slice(0, 19);
        };
      case 'interval':
        return () => `PT${faker.number.int({ min: 1, max: 600 })}M`;
      case 'uuid':
        return () => faker.string.uuid();
      case 'enum':
        return () => faker.helpers.arrayElement(type.values);
      case 'json':
        return () => ({ note: faker.lorem.words(3) });
      case 'binary':
        return () => Buffer.from(faker.string.alphanumeric(12)).toString('base64');
      case 'array': {
        const item = this.valueOf(type.element, name);
        return () => Array.from({ length: faker.number.int({ min: 0, max: 3 }) }, item);
      }
      case 'range':
        return () => {
          const low = faker.number.int({ min: 0, max: 1000 });
          return `[${low},${low + faker.number.int({ min: 1, max: 50 })})`;
        };
      case 'text':
        return this.text(name, type.maxLength);
      case 'opaque':
        return () => faker.internet.ipv4();
      default:
        throw new Error(`nothing plausible of ${JSON.stringify(type satisfies never)}`);
    }
  }

  /** By what the column is called. */
  private text(name: string, most = 200): () => string {
    const { faker } = this;
    const makers: readonly (readonly [RegExp, () => string])[] = [
      [/mail/, () => faker.internet.email()],
      [/phone|mobile/, () => faker.phone.number()],
      [/url|link|site|picture|image/, () => faker.internet.url()],
      [/first.?name|given/, () => faker.person.firstName()],
      [/last.?name|surname|family/, () => faker.person.lastName()],
      [/name|title|owner|author|who/, () => faker.person.fullName()],
      [/town|city|place/, () => faker.location.city()],
      [/country/, () => faker.location.country()],
      [/street|address/, () => faker.location.streetAddress()],
      [/zip|post/, () => faker.location.zipCode()],
      [/colou?r/, () => faker.color.human()],
      [
        /code|no$|number|ref/,
        () => faker.string.alphanumeric({ length: Math.min(8, most), casing: 'upper' }),
      ],
      [/note|text|comment|descr|remark/, () => faker.lorem.sentence()],
    ];
    const make = makers.find(([pattern]) => pattern.test(name))?.[1] ?? (() => faker.word.words(2));
    return () => [...make()].slice(0, most).join('');
  }
}

/** The digits of a number before its point. */
function plainWhole(value: Value): string {
  return /^-?\d+/.exec(typeof value === 'string' ? value : JSON.stringify(value))?.[0] ?? '0';
}

function isNumber({ kind }: ColumnType): boolean {
  return kind === 'integer' || kind === 'numeric' || kind === 'float';
}

/** A number as answers write those of a type. */
function written(value: number, type: ColumnType): Value {
  if (type.kind === 'float') return value;
  if (type.kind === 'numeric') return value.toFixed(type.scale ?? 2);
  const whole = Math.round(value);
  return type.kind === 'integer' && type.bits === 64 ? String(whole) : whole;
}
