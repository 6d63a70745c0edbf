import { testDatabases, freshDatabase } from '../../../demo/src/testing/databases.ts';
import { startService } from '../../service/src/testing/service.ts';
import {
  consoleFolder,
  consoleOver,
  drawn,
  open,
  page,
  position,
  says,
  sentence,
  loaded as shownWhole,
  until,
} from './testing/fixtures.ts';

const { lowmere } = testDatabases();
const tree = (): ReturnType<typeof page.getByRole> => page.getByRole('treegrid');
const groupLines = (): ReturnType<typeof page.locator> =>
  page.locator('.eph-rows [role=row][aria-expanded]');
const groupLine = (name: string): ReturnType<typeof page.locator> =>
  groupLines().filter({ has: page.getByText(name, { exact: true }) });
const text = async (name: string): Promise<string> => (await groupLine(name).textContent()) ?? '';
/** Px from the top of the page to a group's line. */
const topOf = async (name: string): Promise<number> =>
  (await groupLine(name).boundingBox())?.y ?? NaN;
const url = (): Promise<string> =>
  Promise.resolve(decodeURIComponent(page.url()).replaceAll('+', ' '));

/** The lines of groups that stay in view while their rows scroll by. */
const stuck = (): ReturnType<typeof page.locator> => page.locator('.eph-stuck [role=row]');

/** Opens a group within a group, and scrolls until the lines of both stay in view. */
async function openDown(): Promise<void> {
  await open('/tables/passages?columns=passed_at,status&group=lock_id,direction');
  await loaded();
  await groupLines().nth(3).getByRole('button').click();
  await groupLine('down').waitFor();
  await groupLine('down').getByRole('button').click();
  await page.locator('.eph-row:not(.eph-group) .eph-badge').first().waitFor();
  await page.mouse.move(600, 500);
  await page.mouse.wheel(0, 1_500);
  await until(async () => String(await stuck().count()), '2');
}

/** Drags with the mouse, as a hand does: not in one leap. */
async function drag(from: string, to: string): Promise<void> {
  const [start, end] = await Promise.all([from, to].map((one) => page.locator(one).boundingBox()));
  if (!start || !end) throw new Error('nothing to drag');
  await page.mouse.move(start.x + 10, start.y + 8);
  await page.mouse.down();
  await page.mouse.move(end.x + 4, end.y + 8, { steps: 12 });
  await page.mouse.up();
}

const loaded = (): Promise<void> => shownWhole(tree());

describe('an outline', () => {
  consoleOver(() =>
    startService(
      lowmere,
      'tables: { passages: { sort: -passed_at, columns: { status: { format: { kind: badge } } } } }',
      { consoleFolder },
    ),
  );

  const grouped =
    '/tables/passages?columns=passed_at,toll,status,direction&group=lock.canal.name,status';

  it('is made from the header of a column, and says so', async () => {
    await open('/tables/passages?columns=passed_at,status,toll');
    await page.getByLabel('Filter Status').click();
    await page.getByText('Group by this column').click();
    await page.getByRole('button', { name: 'by each value' }).click();
    await loaded();
    await until(
      () => sentence().textContent(),
      /^Passages, grouped by status, newest passed at first\./,
    );
    const origin = page.url().split('/tables')[0] ?? '';
    const answer = await fetch(`${origin}/api/tables/passages/groups?group=status`);
    const body = (await answer.json()) as { groups: { value: string; count: number }[] };
    for (const { value, count } of body.groups) {
      expect(await text(value)).toBe(`${value}${count.toLocaleString('en-GB')}`);
    }
    await says(`Lines 1–${body.groups.length} of ${body.groups.length}`);
    expect(await page.locator('.eph-row:not(.eph-group)').count()).toBe(0);
  });

  it('opens a group where it stands, to its lines and then to its rows', async () => {
    await open(grouped);
    await loaded();
    const lines = await groupLines().count();
    const before = await topOf('Heron Level');
    await groupLine('Heron Level').getByRole('button').click();
    await groupLine('disputed').waitFor();
    expect(await topOf('Heron Level')).toBe(before);
    const inside = (await groupLines().count()) - lines;
    await says(new RegExp(`of ${lines + inside}$`));
    await groupLine('disputed').getByRole('button').click();
    await page.locator('.eph-row:not(.eph-group) .eph-badge').first().waitFor();
    await loaded();
    const rows = page.locator('.eph-row:not(.eph-group)');
    expect(await rows.first().getAttribute('aria-level')).toBe('3');
    const badges = await rows.locator('.eph-badge').allTextContents();
    expect(new Set(badges)).toEqual(new Set(['disputed']));
    // The group around counts as well: these are its own rows, not those of all canals.
    const origin = page.url().split('/tables')[0] ?? '';
    const own = new URLSearchParams({
      filter: "lock.canal.name = 'Heron Level' AND status = 'disputed'",
      columns: 'toll',
      limit: '5',
    });
    const wanted = await fetch(`${origin}/api/tables/passages/rows?${own.toString()}`);
    const { rows: theirs } = (await wanted.json()) as { rows: { toll: string | null }[] };
    const tolls = await rows.locator('[role=gridcell]:nth-child(4)').allTextContents();
    expect(tolls.slice(0, 5).map((toll) => Number(toll) || null)).toEqual(
      theirs.map(({ toll }) => Number(toll) || null),
    );
    await until(url, /open=\[\["Heron Level"\],\["Heron Level","disputed"\]\]$/);
    await page.reload();
    await page.locator('.eph-row:not(.eph-group) .eph-badge').first().waitFor();
    expect(await page.locator('.eph-row:not(.eph-group) .eph-badge').first().textContent()).toBe(
      'disputed',
    );
    await page.getByRole('button', { name: 'Collapse all' }).click();
    await says(new RegExp(`of ${lines}$`));
    await until(url, /status$/);
    await page.getByRole('button', { name: 'Expand one level' }).click();
    await until(() => groupLine('Heron Level').getAttribute('aria-expanded'), 'true');
  });

  it('keeps the lines of groups in view while their rows scroll by, and the place when they close', async () => {
    await openDown();
    expect(await stuck().first().locator('.eph-mark').textContent()).toMatch(/^down/);
    expect(await stuck().last().locator('.eph-mark').textContent()).toMatch(/^4/);
    const place = (await stuck().first().boundingBox())?.y ?? 0;
    await stuck().first().getByRole('button', { includeHidden: true }).click();
    await until(async () => String(await stuck().count()), '1');
    // The line that was stuck is there, at its place, and the next group's below it.
    expect(await topOf('down')).toBeCloseTo(place, 0);
    expect(await page.locator('.eph-row:not(.eph-group)').count()).toBe(0);
    expect(await groupLines().last().locator('.eph-mark').textContent()).toMatch(/^\d\d/);
  });

  it('has levels that are added, moved by drag and by keys, and removed', async () => {
    await open(grouped);
    await loaded();
    const levels = async (): Promise<string> =>
      (await page.locator('[data-level]').allTextContents()).join(' › ');
    await until(levels, 'Canal › Status');
    await page.getByRole('button', { name: '+ Level' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Passed at', exact: true }).click();
    await page.getByRole('button', { name: 'By year' }).click();
    await until(levels, 'Canal › Status › Calendar year of passed at');
    await until(url, /bin\(passed_at, 'P1Y', 'America\/New_York'\)/);
    await drag('[data-level="2"]', '[data-level="0"]');
    await until(levels, 'Calendar year of passed at › Canal › Status');
    await loaded();
    expect(await page.locator('.eph-rows .eph-mark').first().textContent()).toMatch(/^20\d\d/);
    await page.locator('[data-level="0"]').focus();
    await page.keyboard.press('Shift+ArrowRight');
    await until(levels, 'Canal › Calendar year of passed at › Status');
    await page.keyboard.press('Shift+ArrowRight');
    await until(levels, 'Canal › Status › Calendar year of passed at');
    // Lifted, carried and put down.
    await page.locator('[data-level="0"]').focus();
    for (const key of ['Space', 'ArrowRight', 'Space']) {
      await page.keyboard.press(key);
      await drawn();
    }
    await until(levels, 'Status › Canal › Calendar year of passed at');
    await page.locator('[data-level="1"]').focus();
    await page.keyboard.press('Shift+ArrowLeft');
    await until(levels, 'Canal › Status › Calendar year of passed at');
    await page.locator('[data-level="2"]').focus();
    await page.keyboard.press('Delete');
    await until(levels, 'Canal › Status');
    await page.getByLabel('Stop grouping by Status').click();
    await page.getByLabel('Stop grouping by Canal').click();
    await page.getByRole('grid').waitFor();
    await says(/^Rows 1–50 of/);
  });

  it('shows aggregates under their columns and of the whole below, and sorts groups by them', async () => {
    await open(grouped);
    await loaded();
    // Groups alone have nothing under the columns, which take no room then.
    expect(await page.getByRole('columnheader').count()).toBe(2);
    await page.getByRole('button', { name: '+ Aggregate' }).click();
    await page.getByRole('button', { name: 'Toll', exact: true }).click();
    await page.getByLabel('Sum', { exact: true }).check();
    await page.getByLabel('Average').check();
    await page.keyboard.press('Escape');
    await loaded();
    const column = await page
      .getByRole('columnheader', { name: /^Toll/ })
      .getAttribute('aria-colindex');
    const cell = groupLine('Heron Level').locator(`[aria-colindex="${column ?? ''}"]`);
    await until(() => cell.textContent(), /^sum[\d,.]+ · avg[\d.]+$/);
    const foot = page.locator(`.eph-foot [aria-colindex="${column ?? ''}"]`);
    // It stands where one looks first.
    expect(column).toBe('3');
    await until(() => foot.textContent(), /^sum[\d,.]+ · avg[\d.]+$/);
    const all = await foot.textContent();
    const sums = async (): Promise<number[]> =>
      (await page.locator(`.eph-rows [aria-colindex="${column ?? ''}"]`).allTextContents()).map(
        (one) => Number((/sum([\d,.]+)/.exec(one)?.[1] ?? '').replaceAll(',', '')),
      );
    await page
      .getByRole('columnheader', { name: /^Toll/ })
      .getByRole('button', { name: 'Toll', exact: true })
      .click();
    await until(() => sentence().textContent(), /highest sum of toll first, then newest passed at/);
    await loaded();
    const falling = await sums();
    expect(falling).toEqual([...falling].sort((one, other) => other - one));
    await page.getByLabel('Filter', { exact: true }).fill("direction = 'up'");
    await page.keyboard.press('Enter');
    await until(async () => String((await foot.textContent()) === all), 'false');
    await until(() => foot.textContent(), /^sum[\d,.]+ · avg[\d.]+$/);
  });

  it('shows further columns once there are rows, and the number of rows once', async () => {
    await open(`${grouped}&aggregate=count(),sum(toll)`);
    await loaded();
    const labels = (): Promise<string[]> => page.getByRole('columnheader').allTextContents();
    const closed = await labels();
    expect(closed).toHaveLength(3);
    const foot = page.locator('.eph-foot [aria-colindex="2"]');
    await until(() => foot.textContent(), /^Allcount[\d,]+$/);
    expect(await groupLine('Heron Level').textContent()).not.toContain('count');
    await groupLine('Heron Level').getByRole('button').click();
    await groupLine('disputed').waitFor();
    expect(await labels()).toEqual(closed);
    await groupLine('disputed').getByRole('button').click();
    await page.locator('.eph-row:not(.eph-group) .eph-badge').first().waitFor();
    expect((await labels()).slice(0, 3)).toEqual(closed);
    expect((await labels()).length).toBeGreaterThan(closed.length);
    expect(await foot.textContent()).toMatch(/^Allcount[\d,]+$/);
    await page.getByRole('button', { name: 'Collapse all' }).click();
    await until(async () => String((await labels()).length), '3');
  });

  it('is walked by keys', async () => {
    await open(grouped);
    await loaded();
    await tree().focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    const active = (): Promise<string | null> =>
      page.locator('.eph-rows .eph-row[data-active=true] .eph-mark').textContent();
    const second = (await active()) ?? '';
    await page.keyboard.press('ArrowRight');
    const line = page.locator('.eph-rows .eph-row[data-active=true]');
    await until(() => line.getAttribute('aria-expanded'), 'true');
    await page.keyboard.press('ArrowDown');
    expect(await line.getAttribute('aria-level')).toBe('2');
    await page.keyboard.press('ArrowLeft');
    await until(active, second);
    await page.keyboard.press('ArrowLeft');
    await until(() => line.getAttribute('aria-expanded'), 'false');
    await page.keyboard.press('Enter');
    await until(() => line.getAttribute('aria-expanded'), 'true');
  });

  it('shows the line that keys lead to below those that stay in view', async () => {
    await openDown();
    await page.mouse.click(340, 500);
    for (let rows = 0; rows < 15; rows += 1) await page.keyboard.press('ArrowUp');
    const active = page.locator('.eph-rows .eph-row[data-active=true]');
    const below = async (): Promise<string> => {
      const [line, last] = await Promise.all([active.boundingBox(), stuck().first().boundingBox()]);
      return String((line?.y ?? 0) >= (last?.y ?? 0) + (last?.height ?? 0) - 1);
    };
    await until(below, 'true');
  });

  it('reports a group that cannot be loaded, at its place, and tries again', async () => {
    await open(grouped);
    await loaded();
    let refuse = true;
    await page.route(/path=/, async (route) => {
      if (refuse)
        await route.fulfill({ status: 500, body: '{"title":"no","detail":"It is broken."}' });
      else await route.continue();
    });
    await groupLine('Heron Level').getByRole('button').click();
    await page.locator('.eph-failed').first().waitFor();
    expect(await page.locator('.eph-failed').first().textContent()).toContain('Try again');
    expect(await groupLines().count()).toBeGreaterThan(3);
    refuse = false;
    await page.locator('.eph-failed').first().getByRole('button').click();
    await groupLine('disputed').waitFor();
    expect(await page.locator('.eph-failed').count()).toBe(0);
  });

  it('says when nothing matches', async () => {
    await open(`${grouped}&filter=id+<+0`);
    await page
      .getByText(/No matching/)
      .first()
      .waitFor();
  });

  it('refuses what cannot be grouped, with the reason', async () => {
    await open('/tables/passages?group=bin(toll,0)&aggregate=sum(note)');
    await page.getByText('The bin width must be a number above zero.').waitFor();
    await page.getByText('Column note (text) has no aggregate sum.').waitFor();
  });
});

describe('two thousand groups with a million rows open', () => {
  let drop: () => Promise<void>;
  consoleOver(async () => {
    const fresh = await freshDatabase('ephoros_outline', [
      `create table wide as select n as id, (n - 1) / 500 as part, (n - 1) % 500 as number
         from generate_series(1, 1000000) n`,
      'alter table wide add primary key (id)',
      'create index on wide (part, id)',
      'analyze wide',
    ]);
    ({ drop } = fresh);
    return startService(fresh.url, 'tables: { wide: { sort: id } }', { consoleFolder });
  });
  afterAll(() => drop());

  it('are scrolled through as any other rows', async () => {
    await open('/tables/wide?group=part');
    await loaded();
    await says(/^Lines 1–\d+ of 2,000$/);
    await page.getByRole('button', { name: 'Expand one level' }).click();
    await until(() => position().textContent(), /of 1,002,000$/);
    const scroller = tree();
    const visibleRange = async (): Promise<string> => {
      const rows = page.locator('.eph-rows [role=row]');
      const read = await rows.evaluateAll((lines) =>
        lines.map((line) => ({
          index: Number(line.getAttribute('aria-rowindex')) - 2,
          texts: [...line.querySelectorAll('.eph-cell')].map((cell) => cell.textContent),
          busy: line.getAttribute('aria-busy') === 'true',
        })),
      );
      if (read.length === 0 || read.some(({ busy }) => busy)) return 'loading';
      for (const { index, texts } of read) {
        const [part, number] = [Math.floor(index / 501), (index % 501) - 1];
        const expected =
          number === -1
            ? [`${part}500`]
            : ['', String(part * 500 + number + 1), String(part), String(number)];
        expect(texts.slice(1, expected.length + 1).map((one) => one.replaceAll(',', ''))).toEqual(
          expected,
        );
      }
      return 'right';
    };
    await until(visibleRange, 'right');
    let startedAt = 0;
    page.on('request', () => (startedAt += 1));
    for (const share of [0.1, 0.5, 0.9999, 1, 0.25]) {
      await scroller.evaluate((element, at) => {
        element.scrollTop = (element.scrollHeight - element.clientHeight) * at;
      }, share);
      await until(visibleRange, 'right');
    }
    // What is visible, and a block ahead, of one or two groups at each place.
    expect(startedAt).toBeLessThan(40);
    await scroller.focus();
    await page.keyboard.press('Control+End');
    await until(() => position().textContent(), /–1,002,000 of 1,002,000$/);
    await until(visibleRange, 'right');
    await page.mouse.move(500, 400);
    for (let turn = 0; turn < 10; turn += 1) await page.mouse.wheel(0, -400);
    await until(visibleRange, 'right');
    await page.getByRole('button', { name: 'Collapse all' }).click();
    await says(/of 2,000$/);
  });
});
