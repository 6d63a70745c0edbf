/**
 * `npm run screenshots`: the pictures of the README, from a demo that runs at the URL given (by
 * default where the demo listens); names behind it take only those. `sign-in` wants the demo with --sign-in, and is
 * taken only when it is named. The terminal is a real one, under Xvfb, where that is installed.
 */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { root } from './prepare.mjs';

const [url = 'http://127.0.0.1:4620', ...wanted] = process.argv.slice(2);
const examples = process.env.EXAMPLES_URL ?? 'http://127.0.0.1:4631';
const folder = join(root, 'docs', 'screenshots');

const filtered = "status IN ('disputed', 'waived') AND toll > 60";

const outlined =
  "/tables/passages?columns=passed_at,direction,toll,wait_minutes,status&group=lock.canal.name,bin(passed_at,'P1Y')&aggregate=sum(toll),avg(wait_minutes)&sort=-sum(toll)";

const shots = {
  tables: { path: '/' },
  passages: {
    path: `/tables/passages?filter=${encodeURIComponent(filtered)}&sort=-toll`,
    // Stored under a name, and looked at a page further on.
    act: async (page) => {
      await page.getByRole('button', { name: 'Views' }).click();
      await page.getByRole('button', { name: 'Save view as …' }).click();
      await page.getByLabel('Name').fill('Dear and odd');
      await page.getByRole('button', { name: 'Save', exact: true }).click();
      await page.getByTestId('saved-views-line').getByText('Saved').waitFor();
      await page.getByRole('button', { name: 'Page 2' }).click();
      await page.locator('[role=grid][aria-busy=false]').waitFor();
      const id = new URL(page.url()).searchParams.get('view');
      await page.evaluate((one) => fetch(`/api/views/${one}`, { method: 'DELETE' }), id);
    },
  },
  ruler: {
    path: '/tables/passages?reading=scroll',
    act: async (page) => {
      // It says for a while how far its values are read.
      await page
        .locator('.eph-ruler-note')
        .waitFor({ timeout: 5_000 })
        .catch(() => undefined);
      await page.locator('.eph-ruler-note').waitFor({ state: 'detached', timeout: 60_000 });
      const { x, y, height } = await page.locator('.eph-ruler').boundingBox();
      await page.mouse.move(x + 30, y + 40);
      await page.mouse.down();
      await page.mouse.move(x + 30, y + height * 0.46, { steps: 10 });
      await page.locator('[role=grid][aria-busy=false]').waitFor();
    },
  },
  requests: {
    path: "/tables/passages?filter=status = 'disputed'&sort=-toll",
    act: async (page) => {
      await page.getByRole('button', { name: 'Requests' }).click();
      await page.getByRole('button', { name: 'Rows', exact: true }).first().click();
      await page.getByRole('button', { name: 'Suggest an index' }).click();
      await page.locator('.eph-plan').waitFor();
    },
  },
  outline: {
    path: outlined,
    act: async (page) => {
      for (const name of ['Wend Cut', '2022']) {
        await page.locator('.eph-mark').filter({ hasText: name }).click();
        await page.locator('[role=treegrid][aria-busy=false]').waitFor();
        await page.waitForTimeout(300);
      }
    },
  },
  values: {
    path: "/tables/passages?columns=passed_at,status,toll,wait_minutes,direction&filter=status = 'disputed'&aggregate=sum(toll),median(toll)",
    act: async (page) => {
      await page.getByLabel('Filter Toll').click();
      await page.getByRole('group', { name: 'Distribution' }).getByRole('button').nth(4).click();
    },
  },
  code: {
    path: "/tables/passages?filter=status = 'disputed' AND toll > 100&sort=-toll&columns=id,passed_at,lock.name,toll,status&limit=20",
    act: async (page) => {
      await page.getByText('Code', { exact: true }).click();
      await page.getByRole('tab', { name: 'Client' }).click();
    },
  },
  // Next to the demo: npm run examples
  'react-table': {
    at: examples,
    path: '/react-table/?words=ar',
    act: async (page) => {
      await page.locator('.eph-row').nth(3).click();
      for (const key of ['Space', 'ArrowDown', 'Space']) await page.keyboard.press(key);
      await page.getByRole('button', { name: 'تصفية Status' }).click();
      for (const at of [2, 3]) await page.locator('.eph-values label').nth(at).click();
    },
  },
  card: {
    path: '/tables/passages',
    act: async (page) => {
      await page.getByRole('button', { name: 'Open row' }).nth(3).click({ force: true });
      await page.locator('.eph-card .eph-related').nth(1).hover();
      await page.locator('.eph-slip dl').waitFor();
    },
  },
  editing: {
    path: '/tables/passages',
    act: async (page) => {
      const cell = (row, column) =>
        page.locator(`[role=row][aria-rowindex="${row}"] [role=gridcell]`).nth(column);
      const type = async (row, column, text) => {
        await cell(row, column).dblclick();
        await page.keyboard.press('Control+A');
        await page.keyboard.type(text);
        await page.keyboard.press('Enter');
      };
      await type(4, 8, '12');
      await type(7, 8, '-5');
      await cell(9, 2).click();
      await page.keyboard.press('Delete');
      await page.getByRole('button', { name: 'Add row' }).click();
      await page.waitForTimeout(300);
      await cell(5, 8).click();
      await page.getByRole('button', { name: 'Review' }).click();
      await page.getByRole('dialog').waitFor();
    },
  },
  builder: {
    path: "/tables/passages?filter=status = 'disputed' AND (toll > 100 OR lock.canal.name = 'Wend Cut' AND wait_minutes > 60) AND NOT (direction = 'up' OR note IS NULL)",
    act: (page) => page.getByRole('button', { name: 'Filter builder' }).click(),
  },
  chart: {
    path: '/tables/passages?chart=bars,lock.canal.name,sum(toll)&paint=[{"when":"status = \'disputed\'","tone":"warn","column":"status"},{"when":"toll IS NULL","tone":"calm","column":"toll"},{"scale":"toll"},{"bar":"wait_minutes","to":120}]&row-style=striped,numbered&columns=passed_at,lock.name,boat.name,wait_minutes,toll,status',
    act: (page) => page.locator('.eph-chart [data-mark]').first().waitFor(),
  },
  phone: {
    path: '/tables/passages',
    size: { width: 390, height: 800 },
    act: (page) => page.locator('[data-cards] .eph-row').first().waitFor(),
  },
  export: {
    path: '/tables/boats?reading=scroll&offset=1200',
    act: async (page) => {
      await page.getByText('Dark').click();
      await page.getByRole('button', { name: 'Export' }).click();
      await page.getByText(/^about [\d.]+ (kB|MB)$/).waitFor();
    },
  },
  'sign-in': {
    path: '/tables/passages?columns=passed_at,lock.name,boat.name,wait_minutes,toll,status,note',
    as: 'Ines Arkwright',
    act: async (page) => {
      await page.getByText('Sign out').waitFor();
    },
  },
  report: {
    path: `/report/tables/passages?title=Dear disputes&filter=${encodeURIComponent("status = 'disputed' AND toll > 20")}&sort=-toll&group=lock.canal.name,direction&aggregate=sum(toll),avg(wait_minutes)&chart=bars,lock.canal.name,sum(toll)&rows=50`,
  },
};

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--disable-gpu', ...(process.getuid?.() === 0 ? ['--no-sandbox'] : [])],
});
for (const [name, { at = url, path, as, act, size }] of Object.entries(shots)) {
  if (as === undefined ? wanted.length > 0 && !wanted.includes(name) : !wanted.includes(name))
    continue;
  const page = await browser.newPage({
    viewport: size ?? { width: 1280, height: 800 },
    locale: 'en-GB',
    timezoneId: 'Europe/London',
  });
  await page.goto(at + path);
  if (as !== undefined) {
    await page.getByRole('link', { name: 'Lowmere staff' }).click();
    await page.getByText(as).click();
  }
  await page
    .locator(
      'ol, [role=grid][aria-busy=false], [role=treegrid][aria-busy=false], [role=alert], figure svg',
    )
    .first()
    .waitFor();
  await act?.(page);
  await page.waitForTimeout(400);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  await page.close();
}
await browser.close();

drawTerminals();

function drawTerminals() {
  drawTerminal('terminal', [
    'ephoros tables',
    'ephoros rows passages --filter "status = \'disputed\' AND toll > 100" --sort -toll --limit 12',
    'ephoros rows passages --filter "tol > 100" --sort -toll',
  ]);
  drawTerminal('groups', [
    `ephoros groups passages --group "lock.canal.name,bin(passed_at,'P1Y')" --aggregate "sum(toll),avg(wait_minutes),share()" --sort "-sum(toll)" --depth 2 --limit 4`,
    'ephoros values passages toll --bins 6 --limit 1',
  ]);
  drawTerminal('explain', [
    'ephoros explain passages --columns id,toll,lock.name --filter "lock.canal.name = \'Wend Cut\'" --sort -passed_at --limit 5',
  ]);
}

function drawTerminal(name, commands) {
  if (wanted.length > 0 && !wanted.includes(name)) return;
  const script = [
    `ephoros() { ${process.execPath} packages/cli/bin/ephoros.mjs "$@"; }; export EPHOROS_URL=${url}`,
    ...commands.map(
      (command) => `printf '\\033[1m$ %s\\033[0m\\n' ${quoted(command)}; ${command}; echo`,
    ),
    `import -window root ${join(folder, `${name}.png`)}`,
  ].join('\n');
  const look = ['-fa', 'DejaVu Sans Mono', '-fs', '10', '-bg', '#fbf7ee', '-fg', '#2b2620'];
  const drawn = spawnSync(
    'xvfb-run',
    [
      '-a',
      '-s',
      '-screen 0 1280x800x24',
      'xterm',
      '-geometry',
      '158x52+0+0',
      ...look,
      '-e',
      'bash',
      '-c',
      script,
    ],
    { cwd: root, stdio: 'inherit' },
  );
  if (drawn.status !== 0) {
    process.stderr.write('The terminal was not drawn (xvfb, xterm, imagemagick)\n');
  }
}

function quoted(text) {
  return `'${text.replaceAll("'", "'\\''")}'`;
}
