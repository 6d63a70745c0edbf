/** The same questions, as the service gets them and as the endpoint written by hand does. */

const columns = '/api/tables/passages/rows';

/** The first page before a moment, another one each time, so that no two questions are alike. */
export function firstPage(turn: number): { readonly ours: string; readonly theirs: string } {
  const hour = (turn * 7919) % 80_000;
  const moment = `${new Date(Date.UTC(2017, 0, 1) + hour * 3_600_000).toISOString().slice(0, 19)}Z`;
  const filter = encodeURIComponent(`passed_at < TIMESTAMP('${moment}')`);
  return {
    ours: `${columns}?limit=100&total=none&filter=${filter}`,
    theirs: `/passages?limit=100&before=${moment}`,
  };
}

/** A page of a hundred at an offset. */
export function pageAt(
  offset: number,
  total: 'none' | 'exact' | 'estimate' = 'none',
): { readonly ours: string; readonly theirs: string } {
  return {
    ours: `${columns}?limit=100&offset=${offset}&total=${total}`,
    theirs: `/passages?limit=100&offset=${offset}${total === 'exact' ? '&total=exact' : ''}`,
  };
}
