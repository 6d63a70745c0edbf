import { spellAnswer } from './index.ts';

describe('an answer', () => {
  const found = {
    rows: [{ id: 1 }],
    window: { offset: 20, limit: 10, count: 1, total: 21, totalKind: 'exact' },
    next: null,
    previous: 'abc',
  } as unknown as Parameters<typeof spellAnswer>[0];

  it('stands where it is wanted, numbered as the page counts', () => {
    const places = {
      rows: 'data.list',
      total: 'data.meta.all',
      page: 'data.meta.page',
      pages: 'pages',
      limit: 'size',
      offset: 'start',
      count: 'n',
      next: 'more',
      previous: 'back',
    };
    const { json, headers } = spellAnswer(found, {
      parameters: { page: { name: 'p', from: 0 }, offset: { name: 'o', from: 1 } },
      answer: places,
    });
    expect(JSON.parse(json)).toEqual({
      data: { list: [{ id: 1 }], meta: { all: 21, page: 2 } },
      pages: 3,
      size: 10,
      start: 21,
      n: 1,
      more: null,
      back: 'abc',
    });
    expect(headers).toEqual({});
  });

  it('is the list alone, with what is known in headers; nothing that is not known', () => {
    const spelling = {
      parameters: {},
      answer: { rows: '', totalHeader: 'All', pagesHeader: 'Pages' },
    };
    expect(spellAnswer(found, spelling)).toEqual({
      json: '[{"id":1}]',
      headers: { All: '21', Pages: '3' },
    });
    const open = { ...found, window: { ...found.window, total: null, offset: null } };
    expect(spellAnswer(open as typeof found, spelling).headers).toEqual({});
    const answer = spellAnswer(open, {
      parameters: {},
      answer: { rows: 'r', total: 't', page: 'p' },
    });
    expect(JSON.parse(answer.json)).toEqual({ r: [{ id: 1 }], t: null, p: null });
  });
});
