import { deflateRawSync } from 'node:zlib';
import { workbookOf, workbookWith } from '../testing/workbook.ts';
import { checkWorkbook } from './check-workbook.ts';

const check = (bytes: Buffer): Promise<void> => checkWorkbook(new Blob([new Uint8Array(bytes)]));

it('lets through what spreadsheets write', async () => {
  const data = Array.from({ length: 5_000 }, (_, at) => [at, `row ${at}`, 'x'.repeat(50)]);
  await check(
    workbookOf([
      { sheet: 'One', data },
      { sheet: 'Two', data: [['a'], [1]] },
    ]),
  );
});

it.each([
  ['XFD1048576', 'XFD1048576'],
  ['A5000000', undefined],
  ['ZZZ1', 'ZZZ1'],
  ['BZ600000', 'BZ600000'],
])('looks where the cells of a sheet lie: %s', async (place, named) => {
  const rows = `<row r="1"><c r="A1"><v>1</v></c></row><row><c r="${place}"><v>1</v></c></row>`;
  const checked = check(workbookWith([{ sheet: 'One', rows }]));
  if (named === undefined) await checked;
  else await expect(checked).rejects.toThrow(`A sheet has a cell at ${named}.`);
});

it('finds a place that stands in two pieces of the file', async () => {
  const padding = '<c r="A1"><v>1</v></c>'.repeat(20_000);
  const stray = `<row r="1">${padding}</row><row r="9"><c r="XFD9"><v>1</v></c></row>`;
  for (let shift = 0; shift < 40; shift += 1) {
    const rows = ' '.repeat(shift) + stray;
    await expect(check(workbookWith([{ sheet: 'One', rows }]))).rejects.toThrow('XFD9');
  }
});

it('unpacks no more than it should, whatever the sizes say', async () => {
  // 700 MB of spaces take 680 KB.
  const bomb = workbookWith([{ sheet: 'One', rows: '' }], {
    'xl/media/x.xml': {
      packed: deflateRawSync(Buffer.alloc(700 * 1024 * 1024, 0x20)),
      unpacked: 700 * 1024 * 1024,
    },
  });
  expect(bomb.length).toBeLessThan(1024 * 1024);
  await expect(check(bomb)).rejects.toThrow(
    'The workbook unpacked has 701 MB; 300 MB are the most.',
  );
  const lying = workbookWith([{ sheet: 'One', rows: '' }], {
    'xl/media/x.xml': {
      packed: deflateRawSync(Buffer.alloc(350 * 1024 * 1024, 0x20)),
      unpacked: 10,
    },
  });
  await expect(check(lying)).rejects.toThrow('300 MB are the most');
});

it.each([
  ['nothing', Buffer.alloc(0)],
  ['a text', Buffer.from('a,b\n1,2\n')],
  ['half a workbook', workbookOf([{ sheet: 'One', data: [['a']] }]).subarray(0, 300)],
  [
    'a directory that leads nowhere',
    Buffer.concat([Buffer.from('PK\x05\x06', 'latin1'), Buffer.alloc(18, 0xff)]),
  ],
])('says of %s that it is no workbook', async (_what, bytes) => {
  await expect(check(bytes)).rejects.toThrow(/workbook/);
});
