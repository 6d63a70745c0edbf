import type { EditingMessages } from './editing-messages.ts';

const some = (count: number, written: string, one: string, more: string): string =>
  count === 1 ? `1 ${one}` : `${written} ${more}`;

export const englishEditing: EditingMessages = {
  edit: (label) => `${label}: a new value`,
  missing: 'missing',
  seek: 'seek',
  nothingFound: 'nothing is called like that',
  waiting: (changes, writtenChanges, rows, writtenRows) =>
    `${some(changes, writtenChanges, 'change', 'changes')} in ${some(rows, writtenRows, 'row', 'rows')}`,
  save: 'Save',
  look: 'Look',
  drop: 'Drop',
  saving: 'saving …',
  savedAgain: 'the service is away; it is saved as soon as that is there',
  mistakes: (count, written) => some(count, written, 'mistake', 'mistakes'),
  changedByOthers: (count, written) =>
    `${some(count, written, 'row', 'rows')} changed by somebody else`,
  undo: 'Undo',
  redo: 'Redo',
  addRow: 'Add a row',
  newRow: 'new row',
  struck: 'is removed as soon as that is saved',
  was: (value) => `was ${value}`,
  mine: 'mine',
  theirs: 'theirs',
  gone: 'The row is gone.',
  letGo: 'Let it go',
  goTo: 'Show',
  list: 'What waits to be saved',
  notPasted: (count, written) => `${some(count, written, 'cell', 'cells')} could not be pasted`,
  setSelected: 'Set in the selected rows',
  setColumn: 'The same',
  setIn: (count, written) => `Set in ${some(count, written, 'row', 'rows')}`,
  otherCount: (count, written) =>
    `Nothing is saved: by now it is ${some(count, written, 'row', 'rows')}.`,
  bringIn: 'Bring in',
  file: 'CSV, NDJSON or a spreadsheet:',
  tooManyRows: (most) => `The file has more than ${most} rows; bring in fewer at once.`,
  goesInto: (name) => `${name} goes into`,
  leaveOut: 'leave out',
  line: (number) => `line ${number}`,
  takeRows: (count, written) => `Take ${some(count, written, 'row', 'rows')} as new`,
  change: (label) => `Change ${label}`,
  changeShort: 'change',
  keys: [
    ['Enter, F2, or typing', 'changes the cell; a double click, too'],
    ['Enter, Tab', 'takes the value, and goes on down or along; with Shift back'],
    ['Escape', 'leaves the value as it was'],
    ['Backspace', 'empties the cell'],
    ['Delete', 'strikes the row, or takes that back'],
    ['Insert', 'a new row on top'],
    ['Control V, Control D', 'pastes cells; fills the marked ones from the first'],
    ['Control Z, Control Y', 'undoes, and does again'],
    ['Control S', 'saves'],
  ],
};
