import { arabic } from './arabic.ts';
import { english } from './english.ts';
import type { Messages } from './messages.ts';

/** Everything that a language says, with numbers in it where it has any. */
async function texts(messages: Messages): Promise<readonly (readonly [string, string])[]> {
  const {
    sentence,
    card,
    menu,
    editing,
    savedViews,
    layout,
    builder,
    charts,
    printing,
    scanMessages: scan,
    exportMessages: taking,
    requestLogMessages,
    ...others
  } = messages;
  const later = [
    ...flat(await card(), 'card.'),
    ...flat(await menu(), 'menu.'),
    ...flat(await editing(), 'editing.'),
    ...flat(await savedViews(), 'keptViews.'),
    ...flat(await requestLogMessages(), 'happenings.'),
    ...flat(await layout(), 'layout.'),
    ...flat(await printing(), 'printing.'),
    ...flat(await scan(), 'looking.'),
    ...flat(await taking(), 'taking.'),
    ...flat(await charts(), 'charts.'),
    ...flat(await builder(), 'builder.'),
  ];
  return [...flat(others, ''), ...flat(sentence, 'sentence.'), ...later];
}

function flat(words: object, above: string): readonly (readonly [string, string])[] {
  return Object.entries(words).flatMap(([key, word]: [string, unknown]) => {
    const name = above + key;
    if (typeof word === 'string') return [[name, word] as const];
    if (typeof word === 'object' && word !== null) return flat(word, `${name}.`);
    const make = word as (...parts: unknown[]) => string;
    if (name === 'selected') return [[name, make(3, '3')] as const];
    if (name === 'sentence.oneOf') return [[name, make('1', ['2', '3'], true)] as const];
    if (name === 'sentence.mentioning') return [[name, make(['1', '2'], true)] as const];
    return [[name, make('1', '2', '3', '4')] as const];
  });
}

describe('the messages of a table', () => {
  it('are complete in both languages, and none stands in the other', async () => {
    const [ours, theirs] = await Promise.all([texts(english), texts(arabic)]);
    expect(theirs.map(([name]) => name).sort()).toEqual(ours.map(([name]) => name).sort());
    for (const [name, text] of theirs) {
      // A label stands in a sentence as it is, and texts between marks of the language.
      // Keys are called what stands on them.
      if (/^(menu\.(keys|headerKeys)|editing\.keys)\.\d+\.0$/.test(name)) continue;
      if (/^language$|^direction$|^translate$|^sentence\.(inside|quoted|with\.0)$/.test(name))
        continue;
      expect([name, text]).toEqual([name, expect.stringMatching(/[\u0600-\u06ff]/)]);
    }
    for (const [name, text] of ours) {
      expect([name, text]).toEqual([name, expect.not.stringMatching(/[\u0600-\u06ff]/)]);
      expect(text).not.toMatch(/undefined/);
    }
  });

  it('count as the language does', () => {
    const counts = [1, 2, 3, 11, 100].map((count) =>
      arabic.selectedOf(count, String(count), 'Locks'),
    );
    expect(counts).toEqual([
      'المختار من Locks: صف واحد',
      'المختار من Locks: صفان',
      'المختار من Locks: 3 صفوف',
      'المختار من Locks: 11 صفًا',
      'المختار من Locks: 100 صف',
    ]);
    expect([1, 2].map((count) => english.selectedOf(count, String(count), 'Locks'))).toEqual([
      '1 row of Locks selected',
      '2 rows of Locks selected',
    ]);
  });
});
