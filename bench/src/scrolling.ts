import { chromium, type Browser, type CDPSession, type Page } from 'playwright-core';
import type { Endpoint } from './endpoints.ts';
import { fetched } from './load.ts';
import type { Figure } from './report.ts';
import { traced, type Task } from './tracing.ts';

/** What the page itself saw while it was scrolled. */
interface Seen {
  readonly frames: number;
  readonly dropped: number;
  readonly longTasks: number;
  readonly longest: number;
  readonly mostRows: number;
  /** Ms of scripts for each frame. */
  readonly script: number;
}

/** Looks of a table that each cost a drawing more. */
const looks = [
  { words: '', address: '', choose: false },
  {
    words: ', with everything on',
    address: '&rowStyle=wrapped',
    choose: true,
  },
] as const;

/** Rows of the plain table that is held against it. */
const plainRows = 1_000;
/** Screens that it is scrolled over at once: it has some more. */
const plainScreens = 30;

/** Ms of a frame at sixty a second. */
const frame = 1000 / 60;

/** Scrolls the console in a headless Chromium, by wheel and by the bar. */
export async function scrolling(ours: Endpoint, screens: number): Promise<Figure[]> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--disable-gpu', ...(process.getuid?.() === 0 ? ['--no-sandbox'] : [])],
  });
  try {
    return await scrollIn(browser, ours, screens);
  } finally {
    await browser.close();
  }
}

async function scrollIn(browser: Browser, ours: Endpoint, screens: number): Promise<Figure[]> {
  const plain = await plainPage(browser, ours);
  const figures: Figure[] = [];
  for (const { words, address, choose } of looks) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${ours.url}/tables/passages?reading=scroll${address}`);
    await page.locator('[role=grid][aria-busy=false] .eph-row').first().waitFor();
    await page.locator('.eph-ruler-note').waitFor({ state: 'detached', timeout: 120_000 });
    if (choose) {
      await writeDrafts(page);
      await page.getByRole('checkbox').first().check();
    }
    const session = await page.context().newCDPSession(page);
    await session.send('Performance.enable');
    const screenRows = await page.evaluate(() =>
      Math.floor((document.querySelector('[role=grid]')?.clientHeight ?? 0) / 34),
    );
    // Engine and page warm up first.
    await wheel(page, 60);
    const heapBefore = await heapMegabytes(session);
    // In turns, so that the machine's noise falls on both.
    const turns = 4;
    const wheeled: Seen[] = [];
    const dragged: Seen[] = [];
    const plainly: { wheel: Seen[]; drag: Seen[] } = { wheel: [], drag: [] };
    const wheeling = async (on: Page): Promise<void> => wheel(on, screens / turns);
    const plainWheeling = async (on: Page): Promise<void> =>
      wheel(on, screens / turns, plainScreens);
    for (let turn = 0; turn < turns; turn += 1) {
      wheeled.push(await watched(page, session, wheeling));
      plainly.wheel.push(await watched(plain.page, plain.session, plainWheeling));
      dragged.push(await watched(page, session, (on) => drag(on, 150)));
      plainly.drag.push(await watched(plain.page, plain.session, (on) => drag(on, 150)));
    }
    await page.bringToFront();
    const tasks = await traced(browser, async () => {
      await wheel(page, screens / turns);
      await drag(page, 150);
    });
    const heapAfter = await heapMegabytes(session);
    const [byWheel, byBar] = [together(wheeled), together(dragged)];
    const mostRows = Math.max(byWheel.mostRows, byBar.mostRows);
    figures.push(
      ...figuresOf(
        `by wheel over ${screens.toLocaleString('en-GB')} screens${words}`,
        byWheel,
        together(plainly.wheel),
      ),
      ...figuresOf(`by dragging the bar up and down${words}`, byBar, together(plainly.drag)),
      workOf(`by wheel over ${screens / turns} screens and by dragging, traced${words}`, tasks),
    );
    if (!choose) {
      figures.push(
        {
          what: 'rows in the page at most',
          ours: String(mostRows),
          against: `${screenRows} in view`,
          ratio: mostRows / screenRows,
          target: 'at most 3',
          met: mostRows <= 3 * screenRows,
        },
        {
          what: `heap of the page, before and after ${screens.toLocaleString('en-GB')} screens`,
          ours: `${heapBefore.toFixed(1)} MB, ${heapAfter.toFixed(1)} MB`,
        },
      );
    }
    await page.close();
  }
  return figures;
}

/** Leaves changes that are not saved in some of the first rows. */
async function writeDrafts(page: Page): Promise<void> {
  const header = page.getByRole('columnheader', { name: 'Wait' }).first();
  const column = await header.getAttribute('aria-colindex');
  for (let row = 2; row < 8; row += 1) {
    await page
      .locator(`[role=row][aria-rowindex="${row}"] [role=gridcell][aria-colindex="${column}"]`)
      .click();
    await page.keyboard.type('77');
    await page.keyboard.press('Enter');
  }
  await page.getByText(/^6 changes/).waitFor();
}

/** A plain table with the texts of the first rows, as one would write it by hand for so few. */
async function plainPage(
  browser: Browser,
  ours: Endpoint,
): Promise<{ readonly page: Page; readonly session: CDPSession }> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const { body } = await fetched(
    `${ours.url}/api/tables/passages/rows?limit=${plainRows}&shape=arrays&total=none`,
  );
  const { rows } = JSON.parse(body) as { rows: unknown[][] };
  const cells = rows.map((row) =>
    row.map((value) => (value === null ? '' : JSON.stringify(value).slice(0, 60))),
  );
  await page.setContent(
    '<style>body{margin:0;font:14px sans-serif}[role=grid]{height:700px;overflow:auto}td{padding:4px 12px;white-space:nowrap;border-bottom:1px solid #ccc}</style><div role="grid" tabindex="0"><table></table></div>',
  );
  await page.evaluate((texts) => {
    const table = document.querySelector('table');
    for (const row of texts) {
      const line = table?.insertRow();
      if (line !== undefined) line.className = 'eph-row';
      for (const text of row) line?.insertCell().append(text);
    }
  }, cells);
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  return { page, session };
}

/** What a page sees while something is done with it. */
async function watched(
  page: Page,
  session: CDPSession,
  work: (page: Page) => Promise<void>,
): Promise<Seen> {
  await page.bringToFront();
  const before = await scriptMilliseconds(session);
  await watch(page);
  await work(page);
  const found = await visibleRange(page);
  const script = (await scriptMilliseconds(session)) - before;
  return { ...found, script: script / Math.max(1, found.frames) };
}

function together(all: readonly Seen[]): Seen {
  const sum = (of: (one: Seen) => number): number => all.reduce((so, one) => so + of(one), 0);
  const most = (of: (one: Seen) => number): number => Math.max(...all.map(of));
  return {
    frames: sum(({ frames }) => frames),
    dropped: sum(({ dropped }) => dropped),
    longTasks: sum(({ longTasks }) => longTasks),
    longest: most(({ longest }) => longest),
    mostRows: most(({ mostRows }) => mostRows),
    script: sum(({ script }) => script) / all.length,
  };
}

async function scriptMilliseconds(session: CDPSession): Promise<number> {
  const { metrics } = await session.send('Performance.getMetrics');
  return (metrics.find(({ name }) => name === 'ScriptDuration')?.value ?? 0) * 1_000;
}

function figuresOf(how: string, ours: Seen, plain: Seen): Figure[] {
  const { longTasks, longest, script } = ours;
  const share = shareOf(ours);
  return [
    {
      what: `frames dropped ${how}`,
      ours: dropsOf(ours),
      against: `a plain table of ${plainRows.toLocaleString('en-GB')} rows ${dropsOf(plain)}`,
      target: 'under 1 %',
      met: share < 0.01,
    },
    {
      what: `tasks over 50 ms ${how}`,
      ours: longTasks === 0 ? 'none' : `${longTasks}, the longest ${longest.toFixed(0)} ms`,
      target: 'none',
      met: longTasks === 0,
    },
    {
      what: `scripts for each frame ${how}`,
      ours: `${script.toFixed(1)} ms`,
      target: 'at most 3 ms',
      met: script <= 3,
    },
  ];
}

/** The longest task by its own work, anyone who else had the processors meanwhile; and the longest by the clock. */
function workOf(how: string, tasks: readonly Task[]): Figure {
  const most = (of: (one: Task) => number): Task =>
    tasks.reduce((so, one) => (of(one) > of(so) ? one : so));
  const working = most(({ worked }) => worked);
  const longest = most(({ taken }) => taken);
  return {
    what: `the longest task ${how}, by its processor time`,
    ours: `${working.worked.toFixed(0)} ms of ${working.taken.toFixed(0)} ms`,
    against: `the longest by the clock ${longest.worked.toFixed(0)} ms of ${longest.taken.toFixed(0)} ms`,
    target: 'at most 50 ms',
    met: working.worked <= 50,
  };
}

function shareOf({ frames, dropped }: Seen): number {
  return dropped / (frames + dropped);
}

function dropsOf(request: Seen): string {
  const all = request.frames + request.dropped;
  return `${request.dropped} of ${all} (${(shareOf(request) * 100).toFixed(1)} %)`;
}

/**
 * Three turns of the wheel a screen, one as soon as the one before was taken. A table that is short is turned up
 * again after so many screens: at its end nothing would move.
 */
async function wheel(page: Page, screens: number, stretch = Infinity): Promise<void> {
  await page.locator('[role=grid]').hover();
  const from = await placeOf(page);
  for (let turn = 0; turn < screens * 3; turn += 1) {
    const isUpward = Math.floor(turn / 3 / stretch) % 2 === 1;
    await page.mouse.wheel(0, isUpward ? -200 : 200);
    if (turn === 30 && (await placeOf(page)) === from) throw new Error('the wheel moves nothing');
  }
}

/** What stands in the first row in view, and how far it is scrolled. */
function placeOf(page: Page): Promise<string> {
  return page.evaluate(() => {
    const scrolled = document.querySelector('[role=grid]')?.scrollTop ?? 0;
    return `${scrolled} ${document.querySelector('.eph-row')?.getAttribute('aria-rowindex') ?? ''}`;
  });
}

/** As a hand does: to and fro over the whole length, a step each frame, with the pointer on no row. */
async function drag(page: Page, steps: number): Promise<void> {
  await page.mouse.move(2, 2);
  await page.evaluate(
    (count) =>
      new Promise<void>((resolve) => {
        const grid = document.querySelector('[role=grid]');
        // Requested once: it makes the page lay out what has changed, and that would be taken for the table's own work.
        const room = grid === null ? 0 : grid.scrollHeight - grid.clientHeight;
        let step = 0;
        const move = (): void => {
          if (grid === null || step === count) {
            resolve();
            return;
          }
          step += 1;
          // It ends at the top, where the wheel begins.
          const share = 0.5 - 0.5 * Math.cos((step / count) * Math.PI * 4);
          grid.scrollTop = share * room;
          requestAnimationFrame(move);
        };
        move();
      }),
    steps,
  );
}

/** Begins to watch frames, long tasks and rows. */
function watch(page: Page): Promise<void> {
  return page.evaluate((length) => {
    const state = { frames: 0, dropped: 0, longTasks: 0, longest: 0, mostRows: 0, on: true };
    Object.assign(window, { watched: state });
    const observer = new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) {
        if (!state.on) return;
        state.longTasks += 1;
        state.longest = Math.max(state.longest, duration);
      }
    });
    observer.observe({ type: 'longtask' });
    let last = 0;
    const tick = (now: number): void => {
      if (!state.on) {
        observer.disconnect();
        return;
      }
      if (last > 0) {
        state.frames += 1;
        state.dropped += Math.max(0, Math.round((now - last) / length) - 1);
      }
      last = now;
      state.mostRows = Math.max(state.mostRows, document.querySelectorAll('.eph-row').length);
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  }, frame);
}

function visibleRange(page: Page): Promise<Omit<Seen, 'script'>> {
  return page.evaluate(() => {
    const { watched } = window as unknown as { watched: Seen & { on: boolean } };
    watched.on = false;
    return watched;
  });
}

async function heapMegabytes(session: CDPSession): Promise<number> {
  await session.send('HeapProfiler.collectGarbage');
  const { usedSize } = await session.send('Runtime.getHeapUsage');
  return usedSize / 2 ** 20;
}
