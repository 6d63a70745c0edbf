import { until } from '../../core/src/testing/until.ts';
import { parseParameters, type WrittenQuery } from '@ephoros/core/query';
import fc from 'fast-check';
import { outlineSource, ServiceError, type GroupLine, type OutlineLine } from './index.ts';
import type { OutlineSource, OutlineSourceOptions, Row } from './index.ts';
import type { GroupsAnswer, RowsAnswer, Value } from './index.ts';

/** A fixture of groups: a's and their b's, with rows below. */
interface Fixture {
  readonly a: string;
  readonly b: readonly { readonly b: number; readonly rows: number }[];
}

const level = (name: string): GroupsAnswer['levels'][number] => ({
  name,
  label: name,
  type: { kind: 'text' },
  encoding: 'string',
});

function line(value: Value, count: number, below: number | null, filter: string): GroupLine {
  return { value, count, below, aggregates: {}, filter };
}

/** Answers as the service would, from a fixture; every request is recorded. */
class Service {
  readonly requests: string[] = [];
  /** The abort signals of the requests. */
  readonly given: AbortSignal[] = [];
  failing: Error | undefined;
  delay = 0;
  private readonly fixture: readonly Fixture[];

  constructor(fixture: readonly Fixture[]) {
    this.fixture = fixture;
  }

  fetchGroups = async (query: WrittenQuery, signal: AbortSignal): Promise<GroupsAnswer> => {
    const path = (query.path ?? []).map((one) => (one.kind === 'string' ? one.value : null));
    const offset = query.place?.kind === 'offset' ? query.place.offset : Number(tokenOf(query));
    await this.log(`groups ${path.join('/')} ${offset}+${query.limit ?? 0}`, signal);
    const [a] = path;
    const lines =
      a === undefined
        ? this.fixture.map((one) => {
            const count = one.b.reduce((sum, { rows }) => sum + rows, 0);
            return line(one.a, count, one.b.length, `a = '${one.a}'`);
          })
        : (this.fixture.find((one) => one.a === a)?.b ?? []).map(({ b, rows }) =>
            line(String(b), rows, null, `b = ${b}`),
          );
    const groups = lines.slice(offset, offset + (query.limit ?? 50));
    const end = offset + groups.length;
    return {
      table: 't',
      depth: path.length,
      levels: [level('a'), level('b')],
      aggregates: [],
      path,
      groups,
      filter: null,
      window: {
        offset,
        limit: query.limit ?? 50,
        count: groups.length,
        total: lines.length,
        totalKind: 'exact',
      },
      next: end < lines.length ? String(end) : null,
      previous: offset > 0 ? String(offset) : null,
    };
  };

  fetchRows = async (query: WrittenQuery, signal: AbortSignal): Promise<RowsAnswer> => {
    const text = query.filter as string;
    const [, a = '', b = ''] = /n > 1.*a = .(\w+).\)+ AND \(b = (\d+)/.exec(text) ?? [];
    const offset = query.place?.kind === 'offset' ? query.place.offset : Number(tokenOf(query));
    await this.log(`rows ${a}/${b} ${offset}+${query.limit ?? 0}`, signal);
    const total =
      this.fixture.find((one) => one.a === a)?.b.find((one) => String(one.b) === b)?.rows ?? 0;
    const count = Math.max(0, Math.min(query.limit ?? 50, total - offset));
    const rows: Row[] = Array.from({ length: count }, (_, index) => ({
      id: `${a}/${b}/${offset + index}`,
    }));
    const end = offset + count;
    return {
      table: 't',
      columns: ['id'],
      rows,
      window: { offset, limit: query.limit ?? 50, count, total: null, totalKind: 'none' },
      next: end < total ? String(end) : null,
      previous: offset > 0 ? String(offset) : null,
    };
  };

  private async log(what: string, signal: AbortSignal): Promise<void> {
    this.requests.push(what);
    this.given.push(signal);
    await new Promise((resolve) => setTimeout(resolve, this.delay));
    signal.throwIfAborted();
    if (this.failing !== undefined) throw this.failing;
  }
}

function tokenOf({ place }: WrittenQuery): string {
  return place?.kind === 'after' || place?.kind === 'before' ? place.token : '0';
}

const { query } = parseParameters({ group: 'a,b', sort: '-count(),id', filter: 'n > 1' });

function open(service: Service, more: Partial<OutlineSourceOptions> = {}): OutlineSource {
  const { fetchGroups, fetchRows } = service;
  return outlineSource({ fetchGroups, fetchRows, query, settle: 0, blockSize: 10, ...more });
}

function plainFixture(groups: number, inside: number, rows: number): Fixture[] {
  return Array.from({ length: groups }, (_, index) => ({
    a: `g${index}`,
    b: Array.from({ length: inside }, (_unused, b) => ({ b, rows })),
  }));
}

async function settled(source: OutlineSource): Promise<void> {
  for (let tries = 0; tries < 400; tries += 1) {
    await new Promise((resolve) => setTimeout(resolve, 1));
    if (source.state().status !== 'loading') return;
  }
  throw new Error('never settled');
}

function textOf(one: OutlineLine | undefined): string {
  switch (one?.kind) {
    case 'group':
      return `${'  '.repeat(one.depth)}${one.line.value as string}`;
    case 'row':
      return `${'  '.repeat(one.depth)}${one.row.id as string}`;
    case 'empty':
      return `${'  '.repeat(one.depth)}nothing any more`;
    case 'missing':
      return one.error === undefined ? '…' : `! ${one.error.message}`;
    default:
      return 'nothing';
  }
}

const shown = (source: OutlineSource, from: number, to: number): string[] =>
  Array.from({ length: to - from }, (_, index) => textOf(source.row(from + index)));

async function check(source: OutlineSource, from: number, to: number): Promise<string[]> {
  source.setVisibleRows(from, to);
  await settled(source);
  return shown(source, from, Math.min(to, source.state().total ?? to));
}

describe('an outline source', () => {
  it('is requested again on demand: open groups stay open, wherever they stand by then', async () => {
    const fixture = plainFixture(4, 2, 3);
    const service = new Service(fixture);
    const source = open(service);
    await check(source, 0, 20);
    source.toggle(1);
    await settled(source);
    expect(shown(source, 0, 6)).toEqual(['g0', 'g1', '  0', '  1', 'g2', 'g3']);
    // Nothing stands elsewhere: only what is in the groups has changed.
    fixture[1] = {
      a: 'g1',
      b: [
        { b: 0, rows: 9 },
        { b: 1, rows: 3 },
        { b: 2, rows: 1 },
      ],
    };
    source.refresh();
    expect(shown(source, 0, 6)).toEqual(['g0', 'g1', '  0', '  1', 'g2', 'g3']);
    await settled(source);
    expect(shown(source, 0, 7)).toEqual(['g0', 'g1', '  0', '  1', '  2', 'g2', 'g3']);
    const line = source.row(1);
    expect(line).toMatchObject({ kind: 'group', open: true, line: { count: 13 } });
    // Another group stands before it now.
    fixture.unshift({ a: 'new', b: [{ b: 7, rows: 1 }] });
    source.refresh();
    await settled(source);
    expect(shown(source, 0, 8)).toEqual(['new', 'g0', 'g1', '  0', '  1', '  2', 'g2', 'g3']);
    source.close();
  });

  it('closes with a group all that is open in it, and gives up what is on its way there', async () => {
    const service = new Service(plainFixture(4, 3, 40));
    const source = open(service);
    await check(source, 0, 20);
    source.toggle(1);
    await settled(source);
    source.toggle(3);
    await settled(source);
    expect(source.openGroups()).toEqual([['g1'], ['g1', '1']]);
    const answered = service.requests.length;
    service.given.length = 0;
    service.delay = 20;
    // The rows further down in the inner group are still on their way when the outer one closes.
    source.setVisibleRows(20, 30);
    await until(
      () => Promise.resolve(service.requests.length),
      (count) => count > answered,
    );
    source.toggle(1);
    expect(source.openGroups()).toEqual([]);
    expect(service.given.map(({ aborted }) => aborted)).toEqual([true]);
    service.delay = 0;
    expect(await check(source, 0, 20)).toEqual(['g0', 'g1', 'g2', 'g3']);
    // Opened again, what is in it is closed, and is read again.
    service.requests.length = 0;
    source.toggle(1);
    await settled(source);
    expect(shown(source, 0, 7)).toEqual(['g0', 'g1', '  0', '  1', '  2', 'g2', 'g3']);
    expect(service.requests).toEqual(['groups g1 0+10']);
    source.toggle(3);
    await settled(source);
    // Again, though it was there before; what comes next may be requested ahead.
    expect(service.requests[1]).toBe('rows g1/1 0+10');
    source.close();
  });

  it('shows the groups first, and loads only what is opened and looked at', async () => {
    const service = new Service(plainFixture(25, 3, 40));
    const source = open(service);
    expect(source.state()).toMatchObject({ total: undefined, status: 'loading' });
    expect(await check(source, 0, 5)).toEqual(['g0', 'g1', 'g2', 'g3', 'g4']);
    expect(source.state()).toMatchObject({ total: 25, totalKind: 'exact', status: 'ready' });
    expect(service.requests).toEqual(['groups  0+10']);
    expect(source.describe()?.levels.map(({ name }) => name)).toEqual(['a', 'b']);

    source.toggle(1);
    expect(source.state().total).toBe(28);
    await settled(source);
    expect(shown(source, 0, 6)).toEqual(['g0', 'g1', '  0', '  1', '  2', 'g2']);
    source.toggle(3);
    await settled(source);
    expect(source.state().total).toBe(68);
    expect(shown(source, 3, 6)).toEqual(['  1', '    g1/1/0', '    g1/1/1']);
    expect(service.requests.slice(1)).toEqual(['groups g1 0+10', 'rows g1/1 0+10']);
    expect(await check(source, 40, 46)).toEqual([
      '    g1/1/36',
      '    g1/1/37',
      '    g1/1/38',
      '    g1/1/39',
      '  2',
      'g2',
    ]);
    source.close();
  });

  it('stands where a plain list has it, whatever is opened and closed', async () => {
    const fixtures = fc.array(
      fc.array(fc.integer({ min: 0, max: 12 }), { minLength: 1, maxLength: 4 }),
      { minLength: 1, maxLength: 6 },
    );
    const actions = fc.array(fc.nat(200), { maxLength: 12 });
    await fc.assert(
      fc.asyncProperty(fixtures, actions, async (counts, touched) => {
        const fixture = counts.map((rows, index): Fixture => ({
          a: `g${index}`,
          b: rows.map((count, b) => ({ b, rows: count })),
        }));
        const source = open(new Service(fixture), { blockSize: 3, keep: 2 });
        const opened = new Set<string>();
        const plain = (): string[] =>
          fixture.flatMap(({ a, b }) => [
            a,
            ...(opened.has(a) ? b : []).flatMap((one) => [
              `  ${one.b}`,
              ...(opened.has(`${a}/${one.b}`)
                ? one.rows === 0
                  ? ['    nothing any more']
                  : Array.from({ length: one.rows }, (_, row) => `    ${a}/${one.b}/${row}`)
                : []),
            ]),
          ]);
        await check(source, 0, 500);
        for (const touch of touched) {
          const lines = plain();
          const position = touch % lines.length;
          const path = source.pathAt(position);
          const key = path.map((index, depth) => (depth === 0 ? `g${index}` : index)).join('/');
          source.toggle(position);
          if (path.length <= 2) {
            if (opened.delete(key)) {
              for (const one of opened) if (one.startsWith(`${key}/`)) opened.delete(one);
            } else opened.add(key);
          }
          await settled(source);
          expect(source.positionOf(path)).toBe(position);
          expect(shown(source, 0, source.state().total ?? 0)).toEqual(plain());
        }
        source.close();
      }),
      { numRuns: 40 },
    );
  }, 30_000);

  it('gives up what is no longer looked at, and keeps no more than a few groups', async () => {
    const service = new Service(plainFixture(60, 1, 50));
    const source = open(service, { keep: 5, settle: 20 });
    await check(source, 0, 10);
    await source.openLevel();
    await source.openLevel();
    expect(source.state().total).toBe(60 * 52);
    service.delay = 5;
    service.requests.length = 0;
    for (let at = 0; at < 3_000; at += 100) source.setVisibleRows(at, at + 10);
    source.setVisibleRows(3_000, 3_005);
    await settled(source);
    expect(service.requests.length).toBeLessThan(10);
    expect(shown(source, 3_000, 3_002)).toEqual(['    g57/0/34', '    g57/0/35']);
    // What was passed is requested again.
    service.requests.length = 0;
    await check(source, 0, 4);
    expect(service.requests.length).toBeGreaterThan(0);
    source.close();
  });

  it('opens a whole level at once, and closes all', async () => {
    const service = new Service(plainFixture(1_200, 2, 5));
    const source = open(service);
    await check(source, 0, 5);
    await source.openLevel();
    expect(service.requests).toContain('groups  1000+1000');
    expect(source.state().total).toBe(3_600);
    await settled(source);
    expect(shown(source, 0, 4)).toEqual(['g0', '  0', '  1', 'g1']);
    source.closeAll();
    expect(source.state().total).toBe(1_200);
    expect(source.openGroups()).toEqual([]);
    source.close();
  });

  it('opens again what was open, as it comes into view', async () => {
    const service = new Service(plainFixture(30, 2, 5));
    const first = open(service);
    await check(first, 0, 30);
    first.toggle(20);
    first.toggle(2);
    await settled(first);
    first.toggle(3);
    await settled(first);
    const groups = first.openGroups();
    expect(groups).toEqual(expect.arrayContaining([['g20'], ['g2'], ['g2', '0']]));
    const again = open(service, { open: groups });
    await check(again, 0, 6);
    await settled(again);
    expect(shown(again, 2, 5)).toEqual(['g2', '  0', '    g2/0/0']);
    expect(again.openGroups()).toHaveLength(3);
    await check(again, 10, 40);
    await settled(again);
    expect(again.state().total).toBe(30 + 2 + 5 + 2);
    again.close();
    first.close();
  });

  it('reports groups that cannot be loaded, next to those that can, and tries again', async () => {
    const service = new Service(plainFixture(5, 2, 5));
    const source = open(service);
    await check(source, 0, 5);
    service.failing = new ServiceError('failed', 'Time limit exceeded.');
    source.toggle(1);
    await settled(source);
    expect(shown(source, 0, 4)).toEqual([
      'g0',
      'g1',
      '! Time limit exceeded.',
      '! Time limit exceeded.',
    ]);
    expect(source.state()).toMatchObject({ status: 'failed', total: 7 });
    service.failing = undefined;
    source.retry();
    await settled(source);
    expect(shown(source, 1, 4)).toEqual(['g1', '  0', '  1']);
    expect(source.state().error).toBeUndefined();
    source.close();
  });

  it('does not open a group whose value no filter can spell', async () => {
    const service = new Service([{ a: 'NaN', b: [{ b: 1, rows: 3 }] }]);
    const source = outlineSource({
      fetchGroups: async (query, signal) => {
        const answer = await service.fetchGroups(query, signal);
        return { ...answer, groups: answer.groups.map((one) => ({ ...one, filter: null })) };
      },
      fetchRows: service.fetchRows,
      query: parseParameters({ group: 'a' }).query,
    });
    await check(source, 0, 3);
    expect(source.row(0)).toMatchObject({ kind: 'group', openable: false });
    source.toggle(0);
    expect(source.state().total).toBe(1);
    source.close();
  });
});
