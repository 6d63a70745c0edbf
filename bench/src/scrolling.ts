import { chromium, type Browser, type CDPSession, type Page } from 'playwright-core';
import type { Endpoint } from './endpoints.ts';
import type { Figure } from './report.ts';

/** What the page itself saw while it was scrolled. */
interface Seen {
  readonly frames: number;
  readonly dropped: number;
  readonly longTasks: number;
  readonly longest: number;
  readonly mostRows: number;
}

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
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${ours.url}/tables/passages?reading=scroll`);
  await page.locator('[role=grid][aria-busy=false] .eph-row').first().waitFor();
  await page.locator('.eph-ruler-note').waitFor({ state: 'detached', timeout: 120_000 });
  const session = await page.context().newCDPSession(page);
  const screenRows = await page.evaluate(() =>
    Math.floor((document.querySelector('[role=grid]')?.clientHeight ?? 0) / 34),
  );
  // Engine and page warm up first.
  await wheel(page, 60);
  const heapBefore = await heapMegabytes(session);
  await watch(page);
  await wheel(page, screens);
  const wheeled = await seen(page);
  const heapAfter = await heapMegabytes(session);
  await watch(page);
  await drag(page, 300);
  const dragged = await seen(page);
  const mostRows = Math.max(wheeled.mostRows, dragged.mostRows);
  return [
    ...figuresOf(`by wheel over ${screens.toLocaleString('en-GB')} screens`, wheeled),
    ...figuresOf('by dragging the bar up and down', dragged),
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
  ];
}

function figuresOf(how: string, { frames, dropped, longTasks, longest }: Seen): Figure[] {
  const share = dropped / (frames + dropped);
  return [
    {
      what: `frames dropped ${how}`,
      ours: `${dropped} of ${frames + dropped} (${(share * 100).toFixed(1)} %)`,
      target: 'under 1 %',
      met: share < 0.01,
    },
    {
      what: `tasks over 50 ms ${how}`,
      ours: longTasks === 0 ? 'none' : `${longTasks}, the longest ${longest.toFixed(0)} ms`,
      target: 'none',
      met: longTasks === 0,
    },
  ];
}

/** Three turns of the wheel a screen, one as soon as the one before was taken. */
async function wheel(page: Page, screens: number): Promise<void> {
  await page.locator('[role=grid]').hover();
  for (let turn = 0; turn < screens * 3; turn += 1) {
    await page.mouse.wheel(0, 200);
  }
}

/** As a hand does: to and fro over the whole length, a step each frame. */
async function drag(page: Page, steps: number): Promise<void> {
  await page.evaluate(
    (count) =>
      new Promise<void>((resolve) => {
        const grid = document.querySelector('[role=grid]');
        let step = 0;
        const move = (): void => {
          if (grid === null || step === count) {
            resolve();
            return;
          }
          step += 1;
          const share = 0.5 - 0.5 * Math.cos((step / count) * Math.PI * 3);
          grid.scrollTop = share * (grid.scrollHeight - grid.clientHeight);
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

function seen(page: Page): Promise<Seen> {
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
