import { crc32, deflateRawSync } from 'node:zlib';

/** A sheet of a workbook: its name, and its cells by rows. */
export interface WrittenSheet {
  readonly sheet: string;
  readonly data: readonly (readonly (string | number)[])[];
}

/** A workbook of several sheets, as spreadsheets write it. */
export function workbookOf(sheets: readonly WrittenSheet[]): Buffer {
  return workbookWith(
    sheets.map(({ sheet, data }) => ({ sheet, rows: data.map(rowXml).join('') })),
  );
}

/** A workbook whose rows are XML, so that a test can write what no spreadsheet does. */
export function workbookWith(
  sheets: readonly { readonly sheet: string; readonly rows: string }[],
  more: Readonly<Record<string, PackedPart>> = {},
): Buffer {
  const office = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
  const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
  const packaged = 'http://schemas.openxmlformats.org/package/2006';
  const number = (_one: unknown, at: number): number => at + 1;
  const numbers = sheets.map(number);
  return zipOf({
    '[Content_Types].xml': `<Types xmlns="${packaged}/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>`,
    'xl/workbook.xml': `<workbook xmlns="${main}" xmlns:r="${office}"><sheets>${sheets
      .map(({ sheet }, at) => `<sheet name="${sheet}" sheetId="${at + 1}" r:id="rId${at + 1}"/>`)
      .join('')}</sheets></workbook>`,
    'xl/_rels/workbook.xml.rels': `<Relationships xmlns="${packaged}/relationships">${numbers
      .map(
        (at) =>
          `<Relationship Id="rId${at}" Type="${office}/worksheet" Target="worksheets/sheet${at}.xml"/>`,
      )
      .join('')}</Relationships>`,
    ...Object.fromEntries(
      sheets.map(({ rows }, at) => [
        `xl/worksheets/sheet${at + 1}.xml`,
        `<worksheet xmlns="${main}"><sheetData>${rows}</sheetData></worksheet>`,
      ]),
    ),
    ...more,
  });
}

/** A part that is packed already, and how large it says that it is. */
interface PackedPart {
  readonly packed: Buffer;
  readonly unpacked: number;
}

function rowXml(cells: readonly (string | number)[], at: number): string {
  const written = cells.map((cell, column) => {
    const place = `${String.fromCharCode(65 + column)}${at + 1}`;
    return typeof cell === 'number'
      ? `<c r="${place}"><v>${cell}</v></c>`
      : `<c r="${place}" t="inlineStr"><is><t>${cell}</t></is></c>`;
  });
  return `<row r="${at + 1}">${written.join('')}</row>`;
}

/** A zip of texts, or of packed parts, by their names. */
function zipOf(files: Readonly<Record<string, string | PackedPart>>): Buffer {
  const parts: Buffer[] = [];
  const directory: Buffer[] = [];
  let at = 0;
  for (const [name, part] of Object.entries(files)) {
    const bytes = Buffer.from(typeof part === 'string' ? part : '');
    const { packed, unpacked } =
      typeof part === 'string' ? { packed: deflateRawSync(bytes), unpacked: bytes.length } : part;
    const written = Buffer.from(name);
    const common = Buffer.alloc(26);
    common.writeUInt16LE(20, 0);
    common.writeUInt16LE(8, 4);
    common.writeUInt32LE(crc32(bytes), 10);
    common.writeUInt32LE(packed.length, 14);
    common.writeUInt32LE(unpacked, 18);
    common.writeUInt16LE(written.length, 22);
    const rest = Buffer.alloc(14);
    rest.writeUInt32LE(at, 10);
    directory.push(Buffer.from('PK\x01\x02\x14\0', 'latin1'), common, rest, written);
    const local = [Buffer.from('PK\x03\x04', 'latin1'), common, written, packed];
    parts.push(...local);
    at += Buffer.concat(local).length;
  }
  const listed = Buffer.concat(directory);
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 0, 'latin1');
  end.writeUInt16LE(Object.keys(files).length, 8);
  end.writeUInt16LE(Object.keys(files).length, 10);
  end.writeUInt32LE(listed.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...parts, listed, end]);
}
