import type { KeptViewMessages } from './kept-view-messages.ts';

export const englishKeptViews: KeptViewMessages = {
  title: (table) => `Views of ${table}`,
  reading: 'Reading the views …',
  find: 'Find a view',
  none: 'Nobody has kept a view of this table yet.',
  noSuch: 'No view is called like that.',
  more: 'More',
  forAll: 'for all',
  opensFirst: 'opens first',
  by: (who) => `by ${who}`,
  saved: 'saved',
  changedSince: 'changed since',
  save: 'save',
  back: 'back to the saved one',
  plain: 'The table without a view',
  left: (count, written) =>
    count === 1
      ? 'One part of this view is left out:'
      : `${written} parts of this view are left out:`,
  gone: 'This view is not there any more.',
  keepAs: 'Keep what is shown as …',
  about: (name) => `Name, note and sharing of ${name}`,
  name: 'Name',
  note: 'Note',
  share: 'For all who see the table',
  first: 'The table opens with it',
  keep: 'Keep',
  cancel: 'Cancel',
  drop: 'Drop it',
  reallyDrop: 'Really drop it',
  changedMeanwhile: 'Somebody has changed it meanwhile.',
  saveOver: 'Save over it',
  openTheirs: 'Open theirs',
};
