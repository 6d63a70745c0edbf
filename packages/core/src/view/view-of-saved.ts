import { printName } from '../expression/index.ts';
import { printSearch } from '../query/index.ts';
import { readView, type ReadView } from './read-address.ts';
import type { SavedView } from './saved-schema.ts';
import { there } from './saved.ts';
import { changed } from './view.ts';

/** The view that was saved, of the right form; what its texts cannot say any more is a problem. */
export function viewOfSaved(saved: SavedView): ReadView {
  const { columns, search, limit, page, offset, pinned, pinnedEnd, widths, rowStyle, open } = saved;
  const { filter, sort, nulls, group, aggregate, total, reading, density, layout, height } = saved;
  const texts = {
    columns: columns?.map(printName).join(','),
    filter,
    search: search && printSearch(search),
    sort,
    nulls,
    group,
    aggregate,
    limit: limit?.toString(),
    page: page?.toString(),
    offset: offset?.toString(),
    total,
    reading,
    density,
    layout,
    height,
    paint: saved.paint && JSON.stringify(saved.paint),
    chart: saved.chart,
    'chart-side': saved.chartSide,
  };
  const { view, problems } = readView(there(texts));
  return { view: changed(view, { pinned, pinnedEnd, widths, rowStyle, open }), problems };
}
