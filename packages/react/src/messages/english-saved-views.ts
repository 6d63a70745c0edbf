import type { SavedViewMessages } from './saved-view-messages.ts';

export const englishSavedViews: SavedViewMessages = {
  title: (table) => `Saved views of ${table}`,
  reading: 'Loading views …',
  find: 'Search views',
  none: 'This table has no saved views yet.',
  noSuch: 'No matching view.',
  more: 'More',
  forAll: 'Shared',
  opensFirst: 'Default',
  by: (who) => `by ${who}`,
  saved: 'Saved',
  changedSince: 'Modified',
  save: 'Save',
  back: 'Revert',
  plain: 'Table without a view',
  left: (count, written) =>
    count === 1
      ? 'One part of this view is not applied:'
      : `${written} parts of this view are not applied:`,
  gone: 'This view no longer exists.',
  saveViewAs: 'Save view as …',
  about: (name) => `Name, note and sharing of ${name}`,
  name: 'Name',
  note: 'Note',
  share: 'Shared',
  first: 'Default view of this table',
  keep: 'Save',
  cancel: 'Cancel',
  drop: 'Delete',
  reallyDrop: 'Confirm deletion',
  changedMeanwhile: 'Someone else changed this view.',
  saveOver: 'Overwrite',
  openTheirs: 'Open their version',
};
