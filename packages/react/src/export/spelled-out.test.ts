import { commandOfFile, curlOfFile } from './spelled-out.ts';

const at = (parameters: Record<string, string>): string =>
  `http://127.0.0.1:4620/api/tables/passages/export?${new URLSearchParams(parameters).toString()}`;

/** The lines of a command, without what joins them. */
const lines = (command: string): string[] => command.split(' \\\n').map((line) => line.trim());

describe('a file as a command', () => {
  it('is fetched by curl from its address, under its name', () => {
    expect(lines(curlOfFile(at({ format: 'csv' }), "it's.csv"))).toEqual([
      `curl --fail --output 'it'\\''s.csv'`,
      `'${at({ format: 'csv' })}'`,
    ]);
  });

  it('has an option for each parameter, called as the command line calls it', () => {
    const address = at({
      columns: 'id,lock.name',
      filter: "note = 'it''s'",
      format: 'csv',
      header: 'labels',
      'line-end': 'lf',
      bom: 'true',
      formulas: 'false',
      'value-labels': 'true',
    });
    expect(lines(commandOfFile(address, 'passages', 'passages.csv'))).toEqual([
      `ephoros export 'passages' --out 'passages.csv'`,
      `--columns 'id,lock.name'`,
      `--filter 'note = '\\''it'\\'''\\''s'\\'''`,
      `--first-line 'labels'`,
      `--line-end 'lf'`,
      '--bom',
      '--value-labels',
      `--url 'http://127.0.0.1:4620'`,
    ]);
  });
});
