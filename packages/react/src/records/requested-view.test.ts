import { parseParameters } from '@ephoros/core/query';
import { printView, readView, type View } from '@ephoros/core/view';
import { requestedBy, ownView, shownView } from './requested-view.ts';

const base = parseParameters({
  filter: 'open = TRUE',
  search: 'gate',
  group: 'status',
  sort: '-toll',
  limit: '25',
}).query;
const textOf = (view: View): unknown => Object.fromEntries(printView(view));

describe('what a reader chooses within what is requested anyway', () => {
  it('is shown with it, but for the conditions that are not the reader’s', () => {
    expect(textOf(shownView({}, base))).toEqual({ group: 'status', limit: '25' });
    const { view } = readView({ filter: 'toll > 4', group: 'month(day)' });
    expect(textOf(shownView(view, base))).toEqual({
      filter: 'toll > 4',
      group: 'month(day)',
      limit: '25',
    });
  });

  it('is stored alone, however the rest was put together', () => {
    const { view: shown } = readView({ filter: 'toll > 4', group: 'status', limit: '25' });
    const own = ownView({ ...shown, group: [...(base.group ?? [])] }, base);
    expect(textOf(own)).toEqual({ filter: 'toll > 4' });
  });

  it('is stated to be none where a grouping is not wanted', () => {
    const own = ownView({}, base);
    expect(textOf(own)).toEqual({ group: '' });
    expect(requestedBy(shownView(own, base), base, undefined).group).toBeUndefined();
  });

  it('is requested within it', () => {
    const { view } = readView({ filter: 'toll > 4', search: 'heron', sort: 'id' });
    const query = requestedBy(shownView(view, base), base, ['id']);
    expect(textOf(query as View)).toEqual({
      columns: 'id',
      filter: 'open = TRUE AND toll > 4',
      search: 'gate heron',
      group: 'status',
      sort: 'id',
      limit: '25',
    });
  });
});
