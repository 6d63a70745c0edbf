import fc from 'fast-check';
import { freshDatabase } from '../../../demo/src/testing/databases.ts';
import { until } from '../../core/src/testing/until.ts';
import { startService } from '../../service/src/testing/service.ts';
import { createClient, remoteRows } from './index.ts';
import { FakeService, idsOf } from './testing/fake-service.ts';

describe('rows of a service by position', () => {
  it('are read on from one another wherever two stretches meet that others wrote between', async () => {
    const service = new FakeService(400);
    service.manual = false;
    const source = remoteRows({
      request: service.request,
      query: {},
      blockSize: 10,
      ahead: 0,
      settle: 0,
    });
    const check = async (from: number, to: number): Promise<void> => {
      source.setVisibleRows(from, to);
      await until(
        () => Promise.resolve(source.state()),
        ({ status }) => status === 'ready',
      );
    };
    await check(200, 215);
    // Five more rows before all that is looked at: by position the next stretch begins earlier.
    service.ids.unshift(-5, -4, -3, -2, -1);
    await check(230, 238);
    expect(idsOf(source, 230, 232)).toEqual([225, 226]);
    service.wanted.length = 0;
    await check(212, 238);
    expect(idsOf(source, 212, 238)).toEqual(Array.from({ length: 26 }, (_, index) => 212 + index));
    // The stretch further on was dropped, and is read on from the first.
    expect(service.places()).toEqual(['after 219', 'after 229']);
  });

  it('never come twice nor are left out while others write, read on in either direction', async () => {
    const writes = fc.array(
      fc.record({ step: fc.integer({ min: -12, max: 12 }), at: fc.nat(399), add: fc.boolean() }),
      { minLength: 5, maxLength: 25 },
    );
    await fc.assert(
      fc.asyncProperty(fc.nat(30), writes, async (start, moves) => {
        const service = new FakeService(0);
        for (let id = 0; id < 400; id += 1) service.ids.push(id * 1000);
        service.manual = false;
        const there = new Set(service.ids);
        const source = remoteRows({
          request: service.request,
          query: {},
          blockSize: 10,
          settle: 0,
        });
        let from = start * 10;
        const update = async (): Promise<void> => {
          source.setVisibleRows(from, from + 15);
          for (let tries = 0; tries < 50 && source.state().status !== 'ready'; tries += 1) {
            await new Promise((resolve) => setTimeout(resolve));
          }
          expect(source.state().status).toBe('ready');
        };
        await update();
        for (const { step, at, add } of moves) {
          const place = Math.min(at, service.ids.length - 1);
          let added = (service.ids[place] ?? 0) - 1 - (at % 500);
          // A key distinguishes all rows, those that were there as well.
          while (service.ids.includes(added)) added -= 1;
          if (add) service.ids.splice(place, 0, added);
          else there.delete(service.ids.splice(place, 1)[0] ?? 0);
          service.ids.sort((one, other) => one - other);
          from = Math.max(0, Math.min((source.state().total ?? 0) - 15, from + step));
          await update();
          const total = source.state().total ?? 0;
          const shown = idsOf(source, from, Math.min(from + 15, total)) as number[];
          // In order, none twice; and none left out of those that were there all along.
          for (const [index, id] of shown.entries()) {
            if (index > 0) expect(id).toBeGreaterThan(shown[index - 1] ?? Infinity);
          }
          const [first = 0] = shown;
          const last = shown.at(-1) ?? 0;
          const between = [...there].filter((id) => id > first && id < last);
          expect(between.filter((id) => !shown.includes(id))).toEqual([]);
        }
        source.close();
      }),
      { numRuns: 40 },
    );
  });

  it('are all there where the table answers few of them at once, with a key and without', async () => {
    const database = await freshDatabase('few_at_once', [
      'create table keyed (id integer primary key)',
      'create table loose (id integer)',
      'insert into keyed select n from generate_series(1, 130) n',
      'insert into loose select n from generate_series(1, 130) n',
    ]);
    const service = await startService(
      database.url,
      'tables: { keyed: { rowCap: 40 }, loose: { rowCap: 40, sort: id } }',
    );
    try {
      const client = createClient({ url: `${service.url}/api` });
      for (const [table, keyed] of [
        ['keyed', true],
        ['loose', false],
      ] as const) {
        const messages: string[] = [];
        const source = client
          .table(table)
          .source({ keyed, settle: 0, onWarning: (message) => messages.push(message) });
        source.setVisibleRows(0, 130);
        await until(
          () => Promise.resolve(source.state()),
          ({ status, totalKind }) => status === 'ready' && totalKind === 'exact',
        );
        expect(source.state().total).toBe(130);
        expect(idsOf(source, 0, 130)).toEqual(Array.from({ length: 130 }, (_, index) => index + 1));
        expect(messages).toEqual([]);
        source.close();
      }
    } finally {
      await service.close();
      await database.drop();
    }
  });
});
