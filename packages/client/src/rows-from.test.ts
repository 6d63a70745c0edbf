import { parseParameters } from '@ephoros/core/query';
import { until } from '../../core/src/testing/until.ts';
import {
  rowsFrom,
  type RemoteRows,
  type Row,
  type RowsFromOptions,
  type WantedWindow,
} from './index.ts';

const all: readonly Row[] = Array.from({ length: 250 }, (_, n) => ({ id: n, name: `row ${n}` }));

type Backend = (window: WantedWindow) => Promise<readonly Row[] | { rows: Row[]; total?: number }>;

/** What a view of a backend shows after looking here and there, and the warnings for the developer. */
async function scanned(
  backend: Backend,
  options: Partial<RowsFromOptions<Row>> = {},
): Promise<{ messages: string[]; source: RemoteRows }> {
  const messages: string[] = [];
  const notify = (message: string): void => void messages.push(message);
  const source = rowsFrom(backend, {
    key: ['id'],
    settle: 0,
    ahead: 0,
    ...options,
    onWarning: notify,
  });
  for (const [from, to] of [
    [0, 20],
    [100, 120],
    [200, 220],
  ] as const) {
    source.setVisibleRows(from, to);
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  return { messages, source };
}

const sliced: Backend = ({ offset, limit }) =>
  Promise.resolve({ rows: all.slice(offset, offset + limit), total: all.length });

describe('rows from any function that answers windows', () => {
  it('are requested by plain conditions and sort terms, and hold rows of any interface', async () => {
    interface Lock {
      readonly id: number;
    }
    const requests: WantedWindow[] = [];
    const { query } = parseParameters({
      filter: "status = 'open' AND toll >= 4.50",
      search: 'heron',
      sort: '-toll,id',
    });
    const source = rowsFrom<Lock>(
      (window) => {
        requests.push(window);
        return [{ id: 1 }];
      },
      { query },
    );
    source.setVisibleRows(0, 10);
    await until(
      () => Promise.resolve(source.row(0)),
      (row) => row !== undefined,
    );
    const { offset, limit, conditions, search, sort } = requests[0] ?? {};
    expect({ offset, limit, conditions, search, sort }).toEqual({
      offset: 0,
      limit: 100,
      conditions: [
        { column: 'status', is: '=', value: 'open' },
        { column: 'toll', is: '>=', value: '4.50' },
      ],
      search: ['heron'],
      sort: [
        { column: 'toll', descending: true },
        { column: 'id', descending: false },
      ],
    });
    source.close();
  });

  it('stand at their positions, with the total that it reports', async () => {
    const { messages, source } = await scanned(sliced);
    expect(source.row(7)?.name).toBe('row 7');
    expect(source.row(219)?.id).toBe(219);
    expect(source.state()).toMatchObject({ total: 250, totalKind: 'exact', status: 'ready' });
    expect(messages).toEqual([]);
    source.close();
  });

  it('go on without an end where nobody counts, until it is reached', async () => {
    const { source } = await scanned(({ offset, limit }) =>
      Promise.resolve(all.slice(offset, offset + limit)),
    );
    expect(source.state()).toMatchObject({ total: 250, totalKind: 'exact', open: false });
    source.close();
  });

  it('pass the query on, and the signal', async () => {
    const given: WantedWindow[] = [];
    const query = { search: ['heron'] };
    const { source } = await scanned(
      (window) => {
        given.push(window);
        return sliced(window);
      },
      { query },
    );
    expect(given[0]).toMatchObject({ offset: 0, limit: 100, query });
    expect(given[0]?.signal).toBeInstanceOf(AbortSignal);
    source.close();
  });

  it('fail with what the function throws', async () => {
    const { source } = await scanned(() => Promise.reject(new Error('no such file')));
    expect(source.state()).toMatchObject({ status: 'failed' });
    expect(source.state().error?.message).toBe('no such file');
    source.close();
  });
});

describe('the errors that are made most are reported once', () => {
  it('a backend that gives all rows for every query; the right ones are shown', async () => {
    const { messages, source } = await scanned(() => Promise.resolve(all));
    expect(messages).toEqual([
      'the backend ignores the window: for 100 rows from 0 on it returned 250 rows. Pass offset and limit on to the database.',
    ]);
    expect(source.row(215)?.id).toBe(215);
    source.close();
  });

  it('a backend that gives the same rows at every offset', async () => {
    const { messages: texts } = await scanned(({ limit }) =>
      Promise.resolve({ rows: all.slice(0, limit), total: 250 }),
    );
    expect(
      texts.filter((one) => one.includes('the rows from 100 on are those from 0 on')),
    ).toHaveLength(1);
  });

  it('but not rows that look alike, as those of a few columns do', async () => {
    const { messages: shown } = await scanned(
      ({ offset, limit }) => {
        const rows = all.slice(offset, offset + limit).map(() => ({ status: 'passed' }));
        return Promise.resolve({ rows, total: 250 });
      },
      { key: undefined },
    );
    expect(shown).toEqual([]);
  });

  it('a total that does not match', async () => {
    const few: Backend = ({ offset, limit }) =>
      Promise.resolve({ rows: all.slice(offset, offset + limit), total: 100 });
    const page = await scanned(({ offset }) =>
      Promise.resolve({ rows: all.slice(offset, offset + 10), total: 250 }),
    );
    expect(page.messages).toEqual([
      'the total does not match: of 250 rows, says the backend, only 10 came from 0 on, and 100 were asked for. Count with the same filter as the rows.',
    ]);
    const own = await scanned((window) =>
      few(window).then((answer) => ({
        rows: [...('rows' in answer ? answer.rows : [])],
        total: 10,
      })),
    );
    expect(own.messages[0]).toContain(
      'there are 10 rows, says the backend, and 100 came from 0 on',
    );
  });

  it('a key that is missing, or not unique, with the duplicates', async () => {
    const missing = await scanned(sliced, { key: ['number'] });
    expect(missing.messages).toEqual([
      "the key is missing: a row has no number. It has id, name. Ask for the key's columns as well, or name others as the key.",
    ]);
    const twins = all.map((row, n) => ({ ...row, id: n % 97 }));
    const twice = await scanned(({ offset, limit }) =>
      Promise.resolve({ rows: twins.slice(offset, offset + limit), total: 250 }),
    );
    expect(twice.messages).toEqual([
      'the key is not unique: several rows have the same id: 0; 1; 2. Name columns that tell all rows apart.',
    ]);
  });
});
