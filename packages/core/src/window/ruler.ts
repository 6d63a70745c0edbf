import type { ColumnType } from '../schema/index.ts';
import { roundNumbers, roundTimes, type RoundLevel } from './round-values.ts';

/** A sort value and its place: `value` as the column's encoding has it, null for null. */
export interface Tick {
  /** Rows before it. */
  readonly offset: number;
  readonly value: unknown;
}

/** A label of the ruler and where it stands. */
export interface RulerMark {
  /** Rows before the first one that the label speaks of. */
  readonly offset: number;
  readonly text: string;
}

export interface RulerOptions {
  readonly ticks: readonly Tick[];
  readonly type: ColumnType;
  /** Rows in all. */
  readonly total: number;
  /** How many labels have room next to each other. */
  readonly room: number;
  /** For numbers and dates, such as "en-GB". */
  readonly locale: string;
  /** Stands where the column has no value; "no value" by default. */
  readonly missing?: string;
}

/**
 * Where which values of the leading sort column begin, as its type is best read: years, months or
 * days by the span; round numbers; first letters; values themselves where there are few. Coarse
 * labels come first, finer ones where there is room between them.
 */
export function rulerMarks(options: RulerOptions): readonly RulerMark[] {
  const { ticks, total, room, missing = 'no value' } = options;
  const marks = new Marks((0.9 * total) / Math.max(1, room));
  const gap = ticks.find(({ value }, index) => value === null && ticks[index - 1]?.value !== null);
  if (gap !== undefined) marks.add(gap.offset, missing);
  const valued = ticks.filter(({ value }) => value !== null);
  // The values may follow the rows without one.
  const levels = levelsOf(valued, options);
  for (const level of levels) {
    if (marks.count >= room / 2) break;
    for (const { offset, text } of level()) marks.add(offset, text);
  }
  return marks.inOrder();
}

/** The leading value about a place, read between the ticks; undefined where there are none. */
export function valueAt(ticks: readonly Tick[], offset: number, type: ColumnType): unknown {
  const behind = ticks.findIndex((tick) => tick.offset > offset);
  const at = behind === -1 ? ticks.length - 1 : Math.max(0, behind - 1);
  const [tick, next] = [ticks[at], ticks[at + 1]];
  if (tick === undefined) return undefined;
  const scale = scaleOf(type);
  if (scale === undefined || next === undefined) return tick.value;
  if (tick.value === null || next.value === null) return tick.value;
  const [from, to] = [scale.read(tick.value), scale.read(next.value)];
  if (from === undefined || to === undefined) return tick.value;
  const share = (offset - tick.offset) / (next.offset - tick.offset);
  return scale.write(from + (to - from) * Math.min(1, Math.max(0, share)));
}

/** Labels that keep a distance from each other; who comes first stays. */
class Marks {
  private readonly distance: number;
  private readonly marks: RulerMark[] = [];

  constructor(distance: number) {
    this.distance = distance;
  }

  get count(): number {
    return this.marks.length;
  }

  add(offset: number, text: string): void {
    const crowded = this.marks.some((mark) => Math.abs(mark.offset - offset) < this.distance);
    if (!crowded) this.marks.push({ offset: Math.round(offset), text });
  }

  inOrder(): readonly RulerMark[] {
    return [...this.marks].sort((one, other) => one.offset - other.offset);
  }
}

type Level = () => readonly RulerMark[];

function levelsOf(ticks: readonly Tick[], { type, room, total, locale }: RulerOptions): Level[] {
  const scale = scaleOf(type);
  if (scale !== undefined) {
    const places = ticks.flatMap(({ offset, value }) => {
      const read = scale.read(value);
      return read === undefined ? [] : [{ offset, value: read }];
    });
    return scale.rounds(places, locale).map((level) => () => crossings(places, level));
  }
  switch (type.kind) {
    case 'enum':
    case 'boolean': {
      const word = (value: unknown): string =>
        value === true ? 'yes' : value === false ? 'no' : text(value);
      return [() => changes(ticks, word)];
    }
    case 'text':
    case 'uuid': {
      const start = (length: number) => (value: unknown) => beginning(text(value), length);
      // Where all begin alike, the first letters tell nothing.
      const lengths = Array.from({ length: 24 }, (_, index) => index + 1);
      const first = lengths.find((length) => changes(ticks, start(length)).length > 1) ?? 24;
      return [first, first + 1].map((length) => () => changes(ticks, start(length)));
    }
    default: {
      // No natural round values: what stands at even places.
      const each = total / Math.max(1, Math.floor(room / 2));
      const even = ticks.filter(
        ({ offset }, index) =>
          index === 0 ||
          Math.floor(offset / each) !== Math.floor((ticks[index - 1]?.offset ?? 0) / each),
      );
      return [() => even.map(({ offset, value }) => ({ offset, text: text(value) }))];
    }
  }
}

/** Where a word that is made of the values changes. */
function changes(ticks: readonly Tick[], word: (value: unknown) => string): readonly RulerMark[] {
  let last: string | undefined;
  return ticks.flatMap(({ offset, value }) => {
    const now = word(value);
    if (now === last || now === '') return [];
    last = now;
    return [{ offset, text: now }];
  });
}

/** Letter case is no difference to most collations. */
function beginning(whole: string, length: number): string {
  const [first = '', ...rest] = [...whole.trimStart()].slice(0, length);
  return first.toLocaleUpperCase() + rest.join('').toLocaleLowerCase();
}

function text(value: unknown): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}

interface NumberPlace {
  readonly offset: number;
  readonly value: number;
}

const mostCrossings = 2000;

/**
 * Where round values are passed, placed between the ticks. A label that names a span, such as a
 * year, stands where the span is entered: for falling values at its later end.
 */
function crossings(
  places: readonly NumberPlace[],
  { floor, next, text: written, span, size }: RoundLevel,
): readonly RulerMark[] {
  const [first] = places;
  const last = places.at(-1);
  if (first === undefined || last === undefined) return [];
  const rising = last.value >= first.value;
  if (Math.abs(last.value - first.value) / size > mostCrossings) return [];
  const marks: RulerMark[] = [];
  if (span) marks.push({ offset: first.offset, text: written(first.value) });
  for (const [index, from] of places.entries()) {
    const to = places[index + 1];
    if (to === undefined || to.value === from.value) continue;
    const [low, high] = rising ? [from.value, to.value] : [to.value, from.value];
    const inside: RulerMark[] = [];
    for (let round = next(floor(low)); round <= high; round = next(round)) {
      const share = (round - from.value) / (to.value - from.value);
      const offset = from.offset + share * (to.offset - from.offset);
      // Falling, what ends just before this round value is entered here.
      inside.push({ offset, text: written(span && !rising ? round - 1 : round) });
    }
    marks.push(...(rising ? inside : inside.reverse()));
  }
  return marks;
}

interface Scale {
  readonly read: (value: unknown) => number | undefined;
  readonly write: (value: number) => unknown;
  readonly rounds: (places: readonly NumberPlace[], locale: string) => readonly RoundLevel[];
}

const number: Scale = {
  read: (value) => finite(Number(value)),
  write: (value) => value,
  rounds: (places, locale) =>
    roundNumbers(Math.max(0, ...places.map(({ value }) => Math.abs(value))), locale),
};

function moment(write: (at: number) => string): Scale {
  return {
    read: (value) => finite(Date.parse(text(value).replace(/^(\d{4}-\d\d-\d\dT[\d:.]+)$/, '$1Z'))),
    write,
    rounds: (_places, locale) => roundTimes(locale),
  };
}

/** The number line of a type; undefined for types that have none. */
function scaleOf(type: ColumnType): Scale | undefined {
  switch (type.kind) {
    case 'integer':
      return { ...number, write: (value) => Math.round(value) };
    case 'numeric':
    case 'float':
      return number;
    case 'date':
      return moment((at) => new Date(at).toISOString().slice(0, 10));
    case 'timestamp':
      return moment((at) => new Date(at).toISOString());
    default:
      return undefined;
  }
}

function finite(value: number): number | undefined {
  return Number.isFinite(value) ? value : undefined;
}
