import { printView, type ViewTexts } from './address.ts';
import { printPaint } from './paint.ts';
import type { SavedView } from './saved-schema.ts';
import { changed, savedViewVersion, type View } from './view.ts';

/** A view to be saved. Reading it gives the same view. */
export function saveView(view: View): SavedView {
  const { columns, search, limit, place, pinned, pinnedEnd, widths, rowStyle, paint, open } = view;
  const texts: ViewTexts = Object.fromEntries(printView(view));
  const { filter, sort, nulls, group, aggregate, total, reading, density, layout, height, chart } =
    texts;
  const saved = {
    columns: columns?.map((one) => one.name),
    filter,
    search,
    sort,
    nulls,
    group,
    aggregate,
    limit,
    total,
    page: place?.kind === 'page' ? place.page : undefined,
    offset: place?.kind === 'offset' ? place.offset : undefined,
    reading,
    pinned,
    pinnedEnd,
    widths,
    density,
    layout,
    rowStyle,
    height,
    paint: paint && printPaint(paint),
    chart,
    chartSide: view.chartSide,
    open,
  };
  return { version: savedViewVersion, ...there<unknown>(saved) };
}

/** The members that are there. */
export function there<Member>(
  members: Readonly<Record<string, Member | undefined>>,
): Record<string, Member> {
  const found = Object.entries(members).filter(([, member]) => member !== undefined);
  return Object.fromEntries(found) as Record<string, Member>;
}

/** Whether two views show the same, wherever in it one is and whichever groups are open. */
export function showsTheSame(one: View, other: View): boolean {
  return shown(one) === shown(other);
}

function shown(view: View): string {
  return JSON.stringify(printView(changed(view, { place: undefined, open: undefined })));
}
