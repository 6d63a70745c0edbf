import type { Row, Value } from '@ephoros/core/answer';
import { plainColumn } from '@ephoros/core/schema';
import { plainTable } from '../../../core/src/testing/tables.ts';
import type { DraftConflict, RowDraft } from './draft.ts';
import { next, type RowEvent, type RowState } from './row-state.ts';

const table = plainTable('t', [
  plainColumn('id', { kind: 'integer', bits: 32 }),
  plainColumn('a', { kind: 'text' }),
]);
const read: Row = { id: 1, a: 'x' };
const draftA: RowDraft = { id: '1', kind: 'changed', observed: read, values: { a: 'A' } };
const draftB: RowDraft = { ...draftA, values: { a: 'B' } };
const conflict: DraftConflict = { columns: ['a'], now: { id: 1, a: 'theirs' } };
const problems = [{ code: 'value-refused', message: 'No.' } as const];
const set = 'key';

const states: Readonly<Record<string, RowState | undefined>> = {
  clean: undefined,
  draft: { kind: 'draft', draft: draftA },
  sending: { kind: 'sending', set, sent: draftA },
  'changed since': { kind: 'changed-since', set, sent: draftA, draft: draftB },
  'dropped since': { kind: 'changed-since', set, sent: draftA, draft: undefined },
  conflict: { kind: 'conflict', draft: draftA, conflict },
  refused: { kind: 'refused', draft: draftA, problems },
};
const savedRow = { id: 1, a: 'A' };
const events: Readonly<Record<string, RowEvent>> = {
  type: { kind: 'edit', draft: draftB },
  'type the same': { kind: 'edit', draft: { ...draftA } },
  drop: { kind: 'edit', draft: undefined },
  send: { kind: 'send', set },
  saved: { kind: 'saved', set, row: savedRow, table },
  'saved elsewhere': { kind: 'saved', set: 'another key', row: savedRow, table },
  returned: { kind: 'returned', set },
  conflict: { kind: 'conflict', set, conflict },
  refuse: { kind: 'refuse', set, problems },
  resolve: { kind: 'resolve', draft: draftB, left: undefined },
};

/** The state after each event, by the state before; `-` where the event changes nothing. */
const transitions: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  clean: { type: 'draft B', 'type the same': 'draft A', drop: '-', send: '-' },
  draft: { type: 'draft B', 'type the same': 'draft A', drop: 'clean', send: 'sending A' },
  sending: {
    type: 'changed since A: B',
    'type the same': 'sending A',
    drop: 'changed since A: none',
    saved: 'clean',
    returned: 'draft A',
    conflict: 'conflict A',
    refuse: 'refused A',
  },
  'changed since': {
    type: 'changed since A: B',
    'type the same': 'sending A',
    drop: 'changed since A: none',
    saved: 'draft B',
    returned: 'draft B',
    conflict: 'conflict B',
    refuse: 'draft B',
  },
  'dropped since': {
    type: 'changed since A: B',
    'type the same': 'sending A',
    drop: 'changed since A: none',
    saved: 'draft x',
    returned: 'clean',
    conflict: 'clean',
    refuse: 'clean',
  },
  conflict: {
    type: 'conflict B',
    'type the same': 'conflict A',
    drop: 'clean',
    send: 'sending A',
    resolve: 'draft B',
  },
  refused: { type: 'draft B', 'type the same': 'draft A', drop: 'clean', send: 'sending A' },
};

function plainValue(value: Value): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}

function named(state: RowState | undefined): string {
  const value = (draft: RowDraft | undefined): string =>
    draft === undefined ? 'none' : plainValue(draft.values.a ?? null);
  if (state === undefined) return 'clean';
  switch (state.kind) {
    case 'sending':
      return `sending ${value(state.sent)}`;
    case 'changed-since':
      return `changed since ${value(state.sent)}: ${value(state.draft)}`;
    default:
      return `${state.kind} ${value(state.draft)}`;
  }
}

const cases = Object.keys(states).flatMap((state) =>
  Object.keys(events).map((event): [string, string, string] => [
    state,
    event,
    transitions[state]?.[event] ?? '-',
  ]),
);

it.each(cases)('a row that is %s, once %s: %s', (state, event, expected) => {
  const before = states[state];
  const made = events[event];
  if (made === undefined) throw new Error(`no event ${event}`);
  const after = next(before, made);
  if (expected === '-') expect(after).toBe(before);
  else expect(named(after)).toBe(expected);
});
