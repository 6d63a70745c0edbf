import { editedHarbour, type EditedHarbour } from '../../service/src/testing/editing.ts';
import { frames, holdCount } from '../../../examples/fixtures.ts';
import { workbookOf, workbookWith } from '../../react/src/testing/workbook.ts';
import {
  consoleFolder,
  consoleOver,
  open,
  page,
  position,
  service,
  until,
} from './testing/fixtures.ts';

let harbour: EditedHarbour;

consoleOver(async () => {
  harbour = await editedHarbour('console_editing', { consoleFolder });
  return { ...harbour.service, close: harbour.close };
});

const address = '/tables/berths?columns=id,quay.name,code,fee,state,note,opened';
const labels = ['', 'id', 'quay', 'code', 'fee', 'state', 'note', 'opened'];

/** A cell of the row at a place, from 1. */
const cell = (row: number, label: string): ReturnType<typeof page.locator> =>
  page.locator(`[role=row][aria-rowindex="${row + 1}"] [role=gridcell]`).nth(labels.indexOf(label));
const waiting = (): ReturnType<typeof page.locator> =>
  page.getByRole('group', { name: 'Unsaved changes' });
const saved = async (): Promise<void> => {
  await waiting().getByRole('button', { name: 'Save' }).click();
  await until(() => waiting().innerText(), /^\d+ rows? saved/);
};
const row = async (id: number): Promise<any> =>
  (await service.get(`/api/tables/berths/rows/${id}`)).body.row;
const shows = (row: number, label: string, text: string | RegExp): Promise<void> =>
  until(
    () => cell(row, label).locator(':not(.eph-before, .eph-unseen)').first().textContent(),
    text,
  );

/** Pastes a text into the grid. */
const paste = (pasted: string): Promise<void> =>
  page.evaluate((text) => {
    const data = new DataTransfer();
    data.setData('text/plain', text);
    document
      .querySelector('[role=grid]')
      ?.dispatchEvent(
        new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
      );
  }, pasted);

beforeEach(async () => {
  await open(address);
  await page.getByRole('button', { name: 'Add row' }).waitFor();
});

it('is typed into cells, taken, left, undone and saved', async () => {
  await cell(2, 'fee').click();
  await page.keyboard.type('7.5');
  await page.keyboard.press('Tab');
  // Along the row, then by F2 with what is there.
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('F2');
  await page.keyboard.press('End');
  await page.keyboard.type(' and more');
  await page.keyboard.press('Enter');
  await until(() => waiting().innerText(), /^2 changes in 1 row/);
  await cell(2, 'note').click();
  await page.locator('del', { hasText: /^note 2$/ }).waitFor();
  await page.keyboard.press('Enter');
  await page.keyboard.type('Other');
  await page.keyboard.press('Escape');
  await until(() => waiting().innerText(), /^2 changes in 1 row/);
  await page.keyboard.press('Backspace');
  await shows(2, 'note', 'null');
  await page.keyboard.press('Control+z');
  await shows(2, 'note', 'note 2 and more');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await until(() => waiting().innerText(), /^Redo/);
  await page.keyboard.press('Control+y');
  await page.keyboard.press('Control+y');
  await saved();
  expect(await row(2)).toMatchObject({ fee: '7.50', note: 'note 2 and more' });
  await shows(2, 'fee', '7.50');
});

it('goes on being typed where the table becomes lower or higher meanwhile', async () => {
  const lower = async (height: number): Promise<void> => {
    await page.setViewportSize({ width: 1280, height });
    await frames(page, 3);
  };
  await lower(400);
  await page.getByRole('grid').evaluate((grid) => grid.scrollTo(0, 34 * 20));
  await cell(18, 'note').click();
  await page.keyboard.type('a long ');
  for (const height of [360, 320, 400]) {
    await lower(height);
    await page.keyboard.type(`${height} `);
  }
  await page.keyboard.press('Enter');
  await shows(18, 'note', 'a long 360 320 400 ');
});

it('is a draft where its row is scrolled away while it is typed, and keys go on where it was', async () => {
  const scrollTo = (row: number): Promise<unknown> =>
    page.getByRole('grid').evaluate((grid, top) => grid.scrollTo(0, top), 34 * row);
  await page.setViewportSize({ width: 1280, height: 400 });
  await cell(2, 'note').click();
  await page.keyboard.type('half a sent');
  await scrollTo(20);
  await until(() => waiting().innerText(), /^1 change in 1 row/);
  await page.locator('[role=grid]:focus').waitFor();
  await page.keyboard.press('Enter');
  await page.keyboard.press('End');
  await page.keyboard.type('ence');
  await page.keyboard.press('Enter');
  await shows(2, 'note', 'half a sentence');
});

it('has new rows on top, references by the names they lead to, and struck rows', async () => {
  await cell(1, 'code').click();
  await page.keyboard.press('Insert');
  await page.locator('[role=row][data-draft=added]').waitFor();
  await until(() => waiting().innerText(), /1 change in 1 row, 1 error/);
  await cell(1, 'code').dblclick();
  await page.keyboard.type('Fresh');
  await page.keyboard.press('Enter');
  await cell(1, 'quay').dblclick();
  const choices = page.getByRole('dialog').getByRole('option');
  await page.keyboard.type('sou');
  await until(async () => (await choices.allInnerTexts()).join(), /^null,South · 2$/);
  await page.keyboard.press('Enter');
  await shows(1, 'quay', 'South');
  await cell(1, 'state').dblclick();
  await page.getByRole('grid').getByRole('combobox').selectOption('closed');
  await page.keyboard.press('Enter');
  await cell(5, 'code').click();
  await page.keyboard.press('Delete');
  await page.locator('[role=row][data-draft=struck]').waitFor();
  await waiting().getByRole('button', { name: 'Save' }).click();
  // Closed berths say why: the row is gone to, and nothing was saved.
  await until(() => waiting().innerText(), /1 error/);
  await cell(1, 'note').dblclick();
  await page.keyboard.type('under repair');
  await page.keyboard.press('Control+Enter');
  await saved();
  const { body } = await service.get("/api/tables/berths/rows?filter=code='Fresh'");
  expect(body.rows).toMatchObject([{ quay_id: 2, state: 'closed', note: 'under repair' }]);
  expect(await row(4)).toBeUndefined();
});

it('shows what somebody else was quicker with, to be chosen from', async () => {
  await cell(6, 'fee').dblclick();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('61');
  await page.keyboard.press('Enter');
  const { id } = (await service.get('/api/tables/berths/rows?limit=1&offset=5')).body.rows[0];
  await harbour.sql(`update berths set fee = 66 where id = ${id}`);
  await waiting().getByRole('button', { name: 'Save' }).click();
  await until(() => waiting().innerText(), /1 row changed by someone else/);
  await page.locator('[data-draft=conflict] .eph-theirs', { hasText: '66' }).waitFor();
  await waiting().getByRole('button', { name: 'Review' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Mine' }).click();
  await page.keyboard.press('Escape');
  await saved();
  expect(await row(Number(id))).toMatchObject({ fee: '61.00' });
});

it('takes rectangles of cells, and fills them down', async () => {
  await cell(8, 'code').click();
  await paste('P1\t1.5\ttaken\t"two\nlines"\r\nP2\t2.5\tfree\tx\r\n');
  await shows(9, 'code', 'P2');
  await cell(9, 'note').click();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Control+d');
  await shows(11, 'note', 'x');
  await until(() => waiting().innerText(), /^9 changes in 4 rows/);
  await saved();
  const { body } = await service.get(
    "/api/tables/berths/rows?filter=code='P1' OR note='x'&sort=id",
  );
  expect(body.rows.map(({ code, fee, note }: any) => [code, fee, note])).toEqual([
    ['P1', '1.50', 'two\nlines'],
    ['P2', '2.50', 'x'],
    [expect.any(String), expect.any(String), 'x'],
    [expect.any(String), expect.any(String), 'x'],
  ]);
});

it('is there again when the page is loaded again, which asks before it goes', async () => {
  await cell(3, 'note').dblclick();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('kept');
  await page.keyboard.press('Enter');
  let startedAt = 0;
  page.on('dialog', (dialog) => {
    startedAt += 1;
    void dialog.accept();
  });
  await page.reload();
  await shows(3, 'note', 'kept');
  expect(startedAt).toBe(1);
  await waiting().getByRole('button', { name: 'Discard' }).click();
  await shows(3, 'note', 'note 3');
});

it('has what the database says at its cell', async () => {
  await open('/tables/quays');
  await page.getByRole('button', { name: 'Add row' }).click();
  await page.locator('[role=row][data-draft=added] [role=gridcell]').nth(2).dblclick();
  await page.keyboard.type('North');
  await page.keyboard.press('Enter');
  await waiting().getByRole('button', { name: 'Save' }).click();
  const wrong = page.locator('[role=gridcell][aria-invalid=true]');
  await until(() => wrong.getAttribute('title'), 'Two quays of one name.');
  await wrong.dblclick();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('North-east');
  await page.keyboard.press('Enter');
  await saved();
  const { body } = await service.get("/api/tables/quays/rows?filter=name='North-east'");
  expect(body.rows).toHaveLength(1);
});

it('is done on the card as well, and waits with the rest', async () => {
  await open('/tables/berths/rows/12');
  const field = page.locator('.eph-card-field', { hasText: /^Fee/ });
  await field.hover();
  await field.getByRole('button', { name: 'Edit Fee' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('-1');
  await page.keyboard.press('Enter');
  await until(() => waiting().innerText(), /^1 change in 1 row/);
  await waiting().getByRole('button', { name: 'Save' }).click();
  await field.getByRole('alert').waitFor();
  await field.getByRole('button', { name: 'Edit Fee' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('12.5');
  await page.keyboard.press('Enter');
  await saved();
  expect(await row(12)).toMatchObject({ fee: '12.50' });
  await until(() => field.locator('dd').innerText(), /^12\.50/);
});

it('sets the same in all selected rows, if they are as many as are stated', async () => {
  for (const place of [16, 17]) await cell(place, '').getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Set in selected rows' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByRole('combobox', { name: 'Column' }).selectOption('note');
  await sheet.getByRole('textbox').fill('together');
  await page.keyboard.press('Enter');
  const ids = [16, 17].map((place) => cell(place, 'id').innerText());
  const [gone = '', other = ''] = await Promise.all(ids);
  await harbour.sql(`delete from berths where id = ${gone}`);
  await sheet.getByRole('button', { name: 'Set in 2 rows' }).click();
  await until(() => sheet.getByRole('alert').innerText(), /selection now has 1 row/);
  expect((await row(Number(other))).note).not.toBe('together');
  await page.keyboard.press('Escape');
  await cell(16, '').getByRole('checkbox').uncheck();
  await page.getByRole('button', { name: 'Set in selected rows' }).click();
  await sheet.getByRole('combobox', { name: 'Column' }).selectOption('note');
  await sheet.getByRole('textbox').fill('together');
  await page.keyboard.press('Enter');
  await sheet.getByRole('button', { name: 'Set in 1 row' }).click();
  await sheet.waitFor({ state: 'detached' });
  expect(await row(Number(other))).toMatchObject({ note: 'together' });
});

it('sets nothing before the rows of a condition are counted', async () => {
  const where = page.getByRole('textbox', { name: 'Filter' });
  await where.fill('id > 3 AND id <= 12');
  await where.press('Enter');
  await until(() => position().textContent(), /^Rows 1–\d of \d$/);
  await cell(2, '').getByRole('checkbox').check();
  const all = page.getByRole('button', { name: /^Select all \d$/ });
  const [count = ''] = /\d/.exec(await all.innerText()) ?? [];
  await all.click();
  const go = await holdCount(page, 66);
  // Under another condition the rows of the one before are counted by the service.
  await where.fill('');
  await where.press('Enter');
  await page.getByRole('button', { name: 'Set in selected rows' }).click();
  const sheet = page.getByRole('dialog');
  await sheet.getByRole('combobox', { name: 'Column' }).selectOption('note');
  await sheet.getByRole('textbox').fill('counted');
  await page.keyboard.press('Enter');
  const near = sheet.getByRole('button', { name: 'Set in about 66 rows' });
  await near.waitFor();
  expect(await near.isDisabled()).toBe(true);
  go();
  await sheet.getByRole('button', { name: `Set in ${count} rows` }).click();
  await sheet.waitFor({ state: 'detached' });
  expect([(await row(13)).note === 'counted', (await row(12)).note]).toEqual([false, 'counted']);
});

it('imports rows from a file, every error shown and corrected before they are added', async () => {
  await page.getByRole('button', { name: 'Import' }).click();
  const sheet = page.getByRole('dialog');
  const text = 'CODE;Fee;Colour;Quay\nFile1;1,50;"red\ngreen";South\n\nlower;2.005;blue;Suoth\n';
  const file = { name: 'berths.csv', mimeType: 'text/csv', buffer: Buffer.from(text) };
  await sheet.locator('input[type=file]').setInputFiles(file);
  await until(
    async () =>
      (await sheet.getByRole('listitem').allInnerTexts()).map((one) => one.trim()).join('|'),
    "Line 5, Quay id: quays has no row with the name or key 'Suoth'.|Line 5, Code: A capital first.|Line 5, Fee: The number has too many decimals, at most 2 are allowed.",
  );
  const into = sheet.getByRole('combobox');
  expect(
    await into.evaluateAll((all) => all.map((one) => (one as HTMLSelectElement).value)),
  ).toEqual(['code', 'fee', '', 'quay_id']);
  await into.nth(2).selectOption('note');
  const correct = async (label: string, value: string): Promise<void> => {
    const field = sheet.getByLabel(label);
    await field.fill(value);
    await field.press('Enter');
    await field.waitFor({ state: 'detached' });
  };
  // A row would lose the name of its quay: it is not added before that is found.
  expect(await sheet.getByRole('button', { name: 'Add 2 rows' }).isDisabled()).toBe(true);
  await correct('Quay id, Line 5', 'North');
  await correct('Fee, Line 5', '2.05');
  await sheet.getByRole('button', { name: 'Add 2 rows' }).click();
  await until(() => waiting().innerText(), /^2 changes in 2 rows, 1 error/);
  await shows(2, 'code', 'lower');
  await cell(2, 'code').click();
  await page.keyboard.type('Upper');
  await page.keyboard.press('Enter');
  await saved();
  const { body } = await service.get(
    "/api/tables/berths/rows?filter=code IN ('File1','Upper')&sort=code",
  );
  expect(body.rows).toMatchObject([
    { fee: '1.50', note: 'red\ngreen', quay_id: 2 },
    { fee: '2.05', note: 'blue', quay_id: 1 },
  ]);
});

it('imports any sheet of a workbook, and saves more than 5,000 rows in sets', async () => {
  await open('/tables/remarks');
  await page.getByRole('button', { name: 'Import' }).click();
  const sheet = page.getByRole('dialog');
  const buffer = workbookOf([
    { sheet: 'Notes', data: [['nothing'], ['here']] },
    {
      sheet: 'Remarks',
      data: [
        ['id', 'text'],
        [9_001, 'of a sheet'],
      ],
    },
  ]);
  await sheet.locator('input[type=file]').setInputFiles({ name: 'two.xlsx', mimeType: '', buffer });
  await sheet.getByRole('combobox', { name: /^Sheet/ }).selectOption('Remarks');
  await sheet.getByRole('cell', { name: 'of a sheet' }).waitFor();
  await sheet.getByRole('button', { name: 'Add 1 row' }).click();
  await saved();
  expect((await service.get('/api/tables/remarks/rows/9001')).body.row.text).toBe('of a sheet');
  // One stray cell would have a rectangle of 17 thousand million cells be made.
  const stray = workbookWith([
    { sheet: 'One', rows: '<row r="1048576"><c r="XFD1048576"><v>1</v></c></row>' },
  ]);
  await page.getByRole('button', { name: 'Import' }).click();
  await sheet
    .locator('input[type=file]')
    .setInputFiles({ name: 'stray.xlsx', mimeType: '', buffer: stray });
  await until(() => sheet.getByRole('alert').textContent(), /^A sheet has a cell at XFD1048576/);
  await page.keyboard.press('Escape');
  // The trigger refuses one row of the sixth set; those before it are saved.
  const lines = Array.from(
    { length: 6_500 },
    (_, at) => `${10_000 + at},${at === 5_100 ? 'no' : 'yes'}`,
  );
  const text = `id,text\n${lines.join('\n')}\n`;
  const file = { name: 'many.csv', mimeType: 'text/csv', buffer: Buffer.from(text) };
  await page.getByRole('button', { name: 'Import' }).click();
  await sheet.locator('input[type=file]').setInputFiles(file);
  await sheet.getByRole('button', { name: 'Save 6,500 rows' }).click();
  await until(
    async () => (await sheet.getByRole('listitem').allInnerTexts()).join('|'),
    /^Line 5,102.*Nobody says no here/,
  );
  await until(() => sheet.getByRole('status').innerText(), /5,000 of 6,500 rows saved/);
  await sheet.getByLabel('Text, Line 5,102').fill('maybe');
  await sheet.getByLabel('Text, Line 5,102').press('Enter');
  await sheet.getByRole('button', { name: 'Save 1,500 rows' }).click();
  await until(() => sheet.getByRole('status').innerText(), /6,500 of 6,500 rows saved/);
  const { body } = await service.get(
    '/api/tables/remarks/rows?filter=id>=10000&total=exact&limit=1',
  );
  expect(body.window.total).toBe(6_500);
  expect((await service.get('/api/tables/remarks/rows/15100')).body.row.text).toBe('maybe');
});

it('changes cells where rows lie side by side', async () => {
  await open(`${address}&layout=across&sort=id`);
  const at = (record: number, name: string): ReturnType<typeof page.locator> =>
    page.locator(
      `.eph-across-cell[role=gridcell][data-position="${record}"][data-column="${name}"]`,
    );
  await at(1, 'note').dblclick();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('across');
  await page.keyboard.press('Tab');
  await until(() => waiting().innerText(), /^1 change in 1 row/);
  await until(() => at(1, 'note').getAttribute('data-draft'), 'changed');
  // Tab goes on to the next row, and keys begin its cell.
  await until(() => at(2, 'note').getAttribute('data-active'), 'true');
  await page.keyboard.type('along');
  await page.keyboard.press('Enter');
  await at(0, 'id').click();
  await page.keyboard.press('Delete');
  await until(() => at(0, 'code').getAttribute('data-row-draft'), 'struck');
  await page.keyboard.press('Control+z');
  await saved();
  expect([(await row(2)).note, (await row(3)).note]).toEqual(['across', 'along']);
});

it('adds rows inside an outline, with the value of the group', async () => {
  await open('/tables/berths?columns=id,code,fee,state&group=state&filter=id<0 OR id>0');
  await harbour.post('/tables/berths/changes', {
    changes: [{ kind: 'add', values: { code: 'T1', state: 'taken' } }],
  });
  await page.getByRole('button', { name: 'Refresh' }).click();
  await page.locator('.eph-group', { hasText: 'taken' }).locator('.eph-mark').click();
  await page.getByRole('gridcell', { name: 'T1' }).click();
  await page.keyboard.press('Insert');
  await page.locator('[role=row][data-draft=added]').waitFor();
  await until(() => page.locator('[role=row][data-draft=added]').innerText(), /taken/);
  await page.locator('[role=row][data-draft=added] [role=gridcell]').nth(3).click();
  await page.keyboard.type('T2');
  await page.keyboard.press('Enter');
  await saved();
  await page.getByRole('gridcell', { name: 'T2' }).waitFor();
  const { body } = await service.get("/api/tables/berths/rows?filter=code='T2'");
  expect(body.rows).toMatchObject([{ state: 'taken' }]);
});

it('removes the selected rows, says what it saved, and undoes that', async () => {
  await harbour.post('/tables/berths/changes', {
    changes: ['X1', 'X2', 'X3'].map((code) => ({ kind: 'add', values: { code, note: 'gone' } })),
  });
  await open(`${address}&filter=note='gone'`);
  await page.getByRole('button', { name: 'Add row' }).waitFor();
  for (const at of [1, 2]) await cell(at, '').getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Remove 2 rows' }).click();
  await until(() => waiting().innerText(), /^2 changes in 2 rows/);
  await waiting().getByRole('button', { name: 'Save' }).click();
  await page.getByText('2 rows saved').waitFor();
  await page.getByText('Rows 1–1 of 1').waitFor();
  await waiting().getByRole('button', { name: 'Undo' }).click();
  await page.getByText('2 changes undone').waitFor();
  await page.getByText('Rows 1–3 of 3').waitFor();
  // A value that the filter does not match says so before its row goes.
  await cell(1, 'note').click();
  await page.keyboard.type('here');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Refresh' }).focus();
  await page.keyboard.press('Control+s');
  await page.getByText('1 row saved, 1 no longer matches the filter').waitFor();
  await page.getByText('Rows 1–2 of 2').waitFor();
  await page.getByRole('grid').focus();
  await page.keyboard.press('Control+z');
  await page.getByText('Rows 1–3 of 3').waitFor();
});

it('offers to add the rows that are pasted past the last one', async () => {
  await open(`${address}&filter=id=11`);
  await page.getByRole('button', { name: 'Add row' }).waitFor();
  await cell(1, 'note').click();
  await paste('on the row\nbelow 1\nbelow 2');
  await page.getByRole('button', { name: 'Add the other 2 rows' }).click();
  await until(() => waiting().innerText(), /^3 changes in 3 rows/);
  await shows(1, 'note', 'below 1');
  await shows(3, 'note', 'on the row');
  await waiting().getByRole('button', { name: 'Discard' }).click();
});

it('goes to the row with an error where it stands, from any page, and lists it first', async () => {
  await page.getByRole('button', { name: 'Add row' }).click();
  await until(() => waiting().innerText(), /^1 change in 1 row, 1 error/);
  await open(`${address}&page=2&sort=id`);
  await page.getByRole('button', { name: 'Add row' }).waitFor();
  await waiting().getByRole('button', { name: 'Save' }).click();
  await page.locator('[role=row][data-draft=added]').waitFor();
  await waiting().getByRole('button', { name: 'Review' }).click();
  await until(
    () => page.getByRole('dialog').getByRole('listitem').first().getAttribute('data-draft'),
    'added',
  );
  await page.keyboard.press('Escape');
  await waiting().getByRole('button', { name: 'Discard' }).click();
});

it('says before it is saved what the database removes with a row', async () => {
  await harbour.sql(
    `create table if not exists public.moorings (id int primary key, remark_id int references public.remarks on delete cascade)`,
  );
  await harbour.sql(`insert into public.remarks values (71, 'yes') on conflict do nothing`);
  await harbour.sql(`insert into public.moorings values (1, 71), (2, 71) on conflict do nothing`);
  await until(async () => String((await service.get('/api/tables/moorings')).status), '200');
  await open('/tables/remarks?filter=id=71');
  await page.getByRole('button', { name: 'Add row' }).waitFor();
  await page.locator('[role=row][aria-rowindex="2"] [role=gridcell]').nth(1).click();
  await page.keyboard.press('Delete');
  await until(
    () => waiting().innerText(),
    /^1 change in 1 row, 2 rows of Moorings are removed too/,
  );
  await waiting().getByRole('button', { name: 'Discard' }).click();
});

it('keeps what is being typed when the page is loaded again', async () => {
  page.once('dialog', (dialog) => void dialog.accept());
  await cell(3, 'note').click();
  await page.keyboard.type('half a sen');
  await page.reload();
  await page.getByRole('button', { name: 'Add row' }).waitFor();
  await shows(3, 'note', 'half a sen');
  await waiting().getByRole('button', { name: 'Discard' }).click();
});

it('sends nothing that was dropped while the service could not be reached', async () => {
  const id = Number(await cell(4, 'id').textContent());
  const { note } = await row(id);
  await cell(4, 'note').click();
  await page.keyboard.type('never');
  await page.keyboard.press('Enter');
  await page.context().setOffline(true);
  await page.keyboard.press('Control+s');
  await page.getByText('The service is unavailable').waitFor();
  await waiting().getByRole('button', { name: 'Discard' }).click();
  const withdrawn = page.waitForResponse(
    (one) => one.request().method() === 'DELETE' && one.status() === 200,
  );
  await page.context().setOffline(false);
  await withdrawn;
  expect((await row(id)).note).toBe(note);
});

it('shows who changed a row, and undoes that from its card', async () => {
  await harbour.sql(`update berths set note = 'note 8' where id = 8`);
  await harbour.post('/tables/berths/changes', {
    changes: [{ kind: 'change', key: ['8'], values: { note: 'for the card' } }],
  });
  await open('/tables/berths/rows/8');
  await page.locator('.eph-card').getByRole('button', { name: 'History' }).click();
  const entry = page.locator('.eph-card .eph-history li').first();
  await until(() => entry.innerText(), /changed[^]*note 8[^]*for the card/);
  await entry.getByRole('button', { name: 'Undo' }).click();
  await until(() => entry.innerText(), /by an undo/);
  expect((await row(8)).note).toBe('note 8');
});

it.each([
  [390, 800],
  [390, 700],
  [360, 640],
  [1280, 800],
])(
  'can be saved at %i by %i: every control of the foot is where it is pressed',
  async (width, height) => {
    await page.setViewportSize({ width, height });
    await open(address);
    await page.getByRole('button', { name: 'Add row' }).click();
    await waiting().waitFor();
    const covered = await page.locator('footer.eph-line button').evaluateAll((buttons) =>
      buttons.flatMap((button) => {
        const { left, top, width: wide, height: high } = button.getBoundingClientRect();
        if (wide === 0) return [];
        const hit = document.elementFromPoint(left + wide / 2, top + high / 2);
        return button.contains(hit) ? [] : [button.textContent];
      }),
    );
    expect(covered).toEqual([]);
    await waiting().getByRole('button', { name: 'Discard' }).click();
    await page.setViewportSize({ width: 1280, height: 800 });
  },
);

it('is shown as a request and as code', async () => {
  await page.locator('.masthead').getByText('Code', { exact: true }).click();
  await page.getByRole('button', { name: 'A change' }).click();
  await page.getByText('Example: ').waitFor();
  const code = (): Promise<string | null> => page.getByTestId('code').textContent();
  await until(code, /^POST \/api\/tables\/berths\/changes HTTP\/1\.1[^]*"values"/);
  const [, body = ''] = /\n\n([^]*)$/.exec((await code()) ?? '') ?? [];
  // A key is no value that one would try this with.
  expect(Object.keys(JSON.parse(body).changes[0].values)).toEqual(['quay_id']);
  expect((await harbour.post('/tables/berths/changes', body)).status).toBe(200);
  await page.getByRole('tab', { name: 'Command line' }).click();
  await until(code, /^ephoros change 'berths' '\d+' '[a-z_]+=/);
});
