import { readView } from '@ephoros/core/view';
import { passages } from '../../../core/src/testing/passages.ts';
import { arabic } from '../messages/arabic.ts';
import { sentence } from './sentence.ts';

describe('the view sentence', () => {
  it.each([
    ['', undefined, 'Passages, newest passed at first, 50 per page'],
    [
      "status = 'disputed' AND toll > 100",
      '-toll,note',
      'Passages where status is disputed and toll is above 100, highest toll first, then by note, 50 per page',
    ],
    [
      "passed_at < DATE('2024-01-01')",
      'id',
      'Passages where passed at is before 2024-01-01, lowest id first, 50 per page',
    ],
    [
      "CASEI(note) LIKE CASEI('%heron%')",
      '-note',
      'Passages where note contains “heron”, by note, last to first, 50 per page',
    ],
    [
      "status IN ('passed', 'disputed') OR toll IS NULL",
      'id',
      'Passages where status is passed or disputed or toll is null, lowest id first, 50 per page',
    ],
    [
      'NOT (toll > 1 AND toll < 5) AND note IS NOT NULL',
      'id',
      'Passages where not (toll is above 1 and toll is below 5) and note has a value, lowest id first, 50 per page',
    ],
    [
      'toll NOT BETWEEN 1 AND 2 AND clear',
      'crossing',
      'Passages where toll is not between 1 and 2 and clear, lowest crossing first, 50 per page',
    ],
  ])('says %s sorted by %s', (source, sort, written) => {
    const parameters = { filter: source, ...(sort === undefined ? {} : { sort }) };
    const { view, problems } = readView(parameters);
    expect(problems).toEqual([]);
    const phrases = sentence(view, passages);
    expect(phrases.map(({ text }) => text).join('')).toBe(written);
  });

  it('says what is searched for', () => {
    const { view } = readView({ search: 'heron "upper gate"', sort: 'id' });
    const texts = sentence(view, passages).map(({ text }) => text);
    expect(texts.join('')).toBe(
      'Passages mentioning “heron” and “upper gate”, lowest id first, 50 per page',
    );
  });

  it('shows literals as the reader is used to', () => {
    const { view } = readView({ filter: 'toll > 1' });
    const show = (value: string, column?: { name: string }): string =>
      `${column?.name ?? '?'}:${value}`;
    const phrases = sentence(view, passages, { show });
    expect(phrases.some(({ text }) => text.includes('toll:1'))).toBe(true);
  });

  it.each([
    [
      { group: 'status', aggregate: 'sum(toll)', sort: '-sum(toll)' },
      'Passages, grouped by status, with sum of toll, highest sum of toll first, then newest passed at first',
    ],
    [
      { group: "bin(passed_at,'P1M'),weekday(day)", sort: '-count(),-weekday(day)' },
      'Passages, grouped by calendar month of passed at, then weekday of day, most rows first, then groups by weekday of day, last to first, then newest passed at first',
    ],
    [
      { filter: "status = 'passed'", group: 'bin(toll,50),initial(note)', sort: 'toll' },
      'Passages where status is passed, grouped by toll in steps of 50, then first letter of note, lowest toll first',
    ],
    [
      { aggregate: "sum(toll, status = 'passed')" },
      "Passages, with sum of toll where status = 'passed', newest passed at first, 50 per page",
    ],
    [
      { aggregate: 'count(),percentile(toll,90),share()' },
      'Passages, with count and percentile 90 of toll and share, newest passed at first, 50 per page',
    ],
  ])('%j are said in the sentence', (given, described) => {
    const phrases = sentence(readView(given).view, passages);
    expect(phrases.map(({ text }) => text).join('')).toBe(described);
  });

  it('takes names for names, whatever objects have by themselves', () => {
    const group = 'constructor(toll),toString()';
    const said = sentence(readView({ group }).view, passages).map(({ text }) => text);
    expect(said.join('')).toBe(
      'Passages, grouped by CONSTRUCTOR(toll), then tostring(), newest passed at first',
    );
  });

  it('is stated in other languages by their messages', () => {
    const { view } = readView({
      filter: "status IN ('passed', 'disputed') AND NOT (toll IS NULL) AND clear = TRUE",
      search: 'heron',
      group: 'year(passed_at),bin(toll,50)',
      aggregate: 'count(),avg(toll)',
      sort: '-count(),toll',
    });
    const said = sentence(view, passages, { messages: arabic }).map(({ text }) => text);
    expect(said.join('')).toBe(
      'Passages حيث Status هو passed أو disputed وToll موجود وClear هو نعم، بذكر «heron»، مجمعة حسب سنة Passed at، ثم Toll بخطوات 50، مع العدد ومتوسط Toll، الأكثر صفوفًا أولًا، ثم الأدنى في Toll أولًا',
    );
  });
});
