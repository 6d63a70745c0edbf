import type { Locator } from 'playwright-core';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { startService } from '../../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, page, until } from './fixtures.ts';

const configuration = `
tables:
  berths:
    fixed: fee > 0
    paint: [{ when: "state = 'shut'", tone: warn, column: state }]
    narrow: [name, state, fee]
  quays: { begin: "name <> 'South'" }`;

/** The console over berths and quays of its own, with all that a configuration says of views. */
export function deskOver(name: string): void {
  consoleOver(async () => {
    const harbour = await freshDatabase(name, [
      'create table quays (id int primary key, name text not null)',
      `create table berths (id int primary key, name text not null, quay_id int not null references quays,
       fee numeric(8,2) not null, state text not null, opened timestamptz not null, note text)`,
      "insert into quays values (1, 'North'), (2, 'South'), (3, 'West')",
      `insert into berths select n, 'Berth ' || n, n % 3 + 1, n - 1, (array['free','taken','shut'])[n % 3 + 1],
       timestamptz '2024-01-01 10:00Z' + n * interval '1 day',
       case when n % 4 = 0 then repeat('a long remark ', 20) end
     from generate_series(1, 121) n`,
      'analyze',
    ]);
    const service = await startService(harbour.url, configuration, {
      consoleFolder,
      simulate: {},
    });
    return {
      ...service,
      close: async () => {
        await service.close();
        await harbour.drop();
      },
    };
  });
}

export const button = (name: string | RegExp): Locator =>
  page.getByRole('button', { name, exact: true });
export const dialog = (): Locator => page.getByRole('dialog');
export const parameter = (name: string): string | null =>
  new URL(page.url()).searchParams.get(name);
/** Waits until the address says so. */
export const addressSays = (name: string, expected: string | RegExp): Promise<void> =>
  until(() => Promise.resolve(parameter(name) ?? ''), expected);
