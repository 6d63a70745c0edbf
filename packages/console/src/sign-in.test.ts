import { violations } from '../../../examples/fixtures.ts';
import { freshDatabase } from '../../../demo/src/testing/databases.ts';
import { Records, SignIns, Tokens } from '../../service/src/records/index.ts';
import { startProvider, type TestProvider } from '../../service/src/testing/provider.ts';
import { startService } from '../../service/src/testing/service.ts';
import { consoleFolder, consoleOver, open, page, service, until } from './testing/fixtures.ts';

let provider: TestProvider;
let records: Records;
const tokens = new Map<string, string>();

const configuration = (issuer: string): string => `
title: The harbour
signIn:
  - { kind: openid, issuer: "${issuer}", client: ephoros, label: Harbour staff }
  - { kind: tokens }
tables: { berths: { changes: { change: true } } }
roles:
  clerk:
    tables: { berths: { columns: [id, name], changes: true } }
  chief: { tables: all, changes: true, exports: true, explanations: true, views: true }
`;

consoleOver(async () => {
  const { url, drop } = await freshDatabase('console_sign_in', [
    'create table berths (id int primary key, name text not null, fee int)',
    "insert into berths select i, 'Berth ' || i, i from generate_series(1, 20) i",
    'create table ledgers (id int primary key)',
  ]);
  provider = await startProvider();
  const running = await startService(url, configuration(provider.issuer), {
    records: url,
    changes: url,
    consoleFolder,
  });
  records = new Records(url);
  for (const name of ['clerk', 'chief', 'stranger']) {
    tokens.set(name, (await new Tokens(records).add({ name, roles: [name] })).text);
  }
  return {
    ...running,
    close: async () => {
      await running.close();
      await provider.close();
      await records.close();
      await drop();
    },
  };
});

const signInByToken = async (name: string): Promise<void> => {
  await page.getByRole('textbox', { name: 'Token' }).fill(tokens.get(name) ?? '');
  await page.getByRole('button', { name: 'Sign in' }).click();
};

const signOut = async (): Promise<void> => {
  await page.getByRole('button', { name: 'Sign out' }).click();
  await page.getByRole('link', { name: 'Harbour staff' }).waitFor();
};

it('lets nobody see anything before they have signed in, and brings them to where they were going', async () => {
  provider.person = { sub: 'cora', name: 'Cora Pike', roles: ['clerk'] };
  await open('/tables/berths?sort=-id');
  const policy = page.getByRole('link', { name: 'Harbour staff' });
  await policy.waitFor();
  expect(await page.title()).toBe('Sign in · The harbour');
  expect(['sign in', await violations(page)]).toEqual(['sign in', []]);
  await policy.click();
  await page.getByRole('gridcell', { name: 'Berth 20', exact: true }).waitFor();
  expect(page.url()).toBe(`${service.url}/tables/berths?sort=-id`);
  await page.getByText('Cora Pike').waitFor();
  // What no role of hers allows is not offered.
  const offered = async (): Promise<string> => {
    const names = await page.getByRole('button').allInnerTexts();
    return ['Export', 'Views', 'Columns'].filter((name) => names.includes(name)).join();
  };
  expect(await offered()).toBe('Columns');
  await signOut();

  await open('/');
  await page.getByRole('textbox', { name: 'Token' }).fill('nothing');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByText('This token is not valid.').waitFor();
  await signInByToken('chief');
  await page.getByRole('link', { name: 'Ledgers' }).waitFor();
  await open('/tables/berths');
  await until(offered, 'Export,Views,Columns');
  await signOut();
});

it('says why there is nothing for somebody without a role, and when a sign-in Sign-in failed', async () => {
  await open('/sign-in?failed=refused');
  await page.getByRole('alert').filter({ hasText: 'Sign-in failed' }).waitFor();
  await signInByToken('stranger');
  await page.getByText('You are signed in as stranger. None of your roles').waitFor();
  expect(['nothing', await violations(page)]).toEqual(['nothing', []]);
  await signOut();
});

it('keeps what somebody was doing while they sign in once more', async () => {
  await open('/tables/berths');
  await signInByToken('clerk');
  const cell = page.getByRole('gridcell', { name: 'Berth 3', exact: true });
  // What edits comes behind the first rows.
  const field = page.getByRole('gridcell').getByRole('textbox');
  await until(async () => {
    if ((await field.count()) === 0) await cell.dblclick({ timeout: 500 }).catch(() => null);
    return String(await field.count());
  }, '1');
  await page.keyboard.press('Control+A');
  await page.keyboard.type('North berth');
  await page.keyboard.press('Enter');
  const draft = page.getByRole('gridcell').filter({ hasText: 'North berth' });
  await draft.waitFor();
  await new SignIns(records).end({ caller: 'clerk' });
  // What was known goes on for five seconds; then the next question finds nobody.
  await until(async () => {
    await page
      .getByRole('button', { name: 'Refresh' })
      .click({ timeout: 500 })
      .catch(() => null);
    return String(await page.getByRole('dialog', { name: 'Sign in' }).count());
  }, '1');
  expect(['again', await violations(page)]).toEqual(['again', []]);
  await signInByToken('clerk');
  await page.getByRole('dialog').waitFor({ state: 'detached' });
  expect(await draft.count()).toBe(1);
});
