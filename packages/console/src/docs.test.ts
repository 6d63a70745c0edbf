/** The documentation site: it is reached from the console, works without another host, and answers a newcomer. */
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, open, page, service } from './testing/fixtures.ts';

consoleOver(() => startService(testDatabases().lowmere, '', { consoleFolder }));

/** Types a question into the site's search, and returns the address of the first hit. */
async function firstHit(question: string): Promise<string> {
  await page.locator('.VPNavBarSearch button').click();
  await page.locator('.VPLocalSearchBox input').fill(question);
  // The list follows the letters: its marks are of the last ones when the last word is among them.
  const last = question.split(' ').at(-1)?.slice(0, 4) ?? '';
  const mark = page.locator('.VPLocalSearchBox .result mark', { hasText: new RegExp(last, 'i') });
  await mark.first().waitFor();
  const hit = page.locator('.VPLocalSearchBox .result').first();
  return (await hit.getAttribute('href')) ?? '';
}

test('is opened from the console, and loads from the service alone', async () => {
  const hosts = new Set<string>();
  page.on('request', (request) => hosts.add(new URL(request.url()).host));
  await open('/');
  await page.getByRole('link', { name: 'Docs' }).click();
  await page.getByRole('heading', { name: 'Ephoros', level: 1 }).waitFor();
  await page.getByRole('link', { name: 'Filter language' }).first().click();
  await page.getByRole('heading', { name: 'Filter language reference' }).waitFor();
  expect(new URL(page.url()).pathname).toMatch(/^\/docs\/filter/);
  expect(await page.locator('body').innerText()).not.toMatch(/\{\{|undefined/);
  expect([...hosts]).toEqual([new URL(service.url).host]);
});

test('follows the light of the system, and fits a phone', async () => {
  const ground = (): Promise<string> =>
    page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  await page.emulateMedia({ colorScheme: 'light' });
  await open('/docs/how');
  expect(await ground()).toBe('rgb(252, 249, 242)');
  await page.emulateMedia({ colorScheme: 'dark' });
  await page.reload();
  expect(await ground()).toBe('rgb(35, 32, 27)');
  await page.setViewportSize({ width: 390, height: 800 });
  const overflow = await page.evaluate(
    () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
  );
  expect(overflow).toBe(0);
});

test.each([
  ['how do I page', /how.*page/],
  ['export everything', /export/],
  ['add my login', /login|sign-in/],
  ['hide a column', /hide/],
  ['use my router', /router/],
  ['test my page', /test/],
  ['translate it', /translate/],
  ['put it behind nginx', /nginx|proxy/],
  ['why is a query slow', /slow/],
  ['undo a change', /undo/],
])('the first hit of "%s" answers it', async (question, answer) => {
  await open('/docs/');
  expect(await firstHit(question)).toMatch(answer);
});
