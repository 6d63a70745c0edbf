import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { configurationJsonSchema, parseConfiguration } from './index.ts';

function errors(text: string): string[] {
  try {
    parseConfiguration(text, 'f');
    return [];
  } catch (thrown) {
    return (thrown as Error).message.split('\n');
  }
}

describe('the configuration file', () => {
  it('may be empty', () => {
    expect(errors('')).toEqual([]);
    expect(errors('# nothing\n')).toEqual([]);
  });

  it('is refused with every error at its line and column', () => {
    const text = [
      'titel: Harbour',
      'publish: some',
      'tables:',
      '  boats:',
      '    rowCap: 0',
      '    pageSizes: []',
      '    columns:',
      '      toll: { format: { kind: coins } }',
      '      note: { lable: Note }',
    ].join('\n');
    expect(errors(text).map((line) => /^f:\d+:\d+/.exec(line)?.[0])).toEqual([
      'f:1:1',
      'f:2:1',
      'f:5:5',
      'f:6:5',
      'f:8:25',
      'f:9:15',
    ]);
    expect(errors(text).join('\n')).toContain('unknown setting lable in tables.boats.columns.note');
  });

  it('is refused where it is no YAML', () => {
    expect(errors('tables: [\n  - x: : y')[0]).toMatch(/^f:2:\d+: /);
    expect(errors('a: 1\na: 2')[0]).toMatch(/^f:2:1: /);
    expect(errors('just text')[0]).toMatch(/^f:1:1: /);
  });

  it('has a JSON Schema in the documentation that is the one in force', () => {
    const documented: unknown = JSON.parse(
      readFileSync(join(process.cwd(), 'docs/ephoros.schema.json'), 'utf8'),
    );
    expect(documented).toEqual(JSON.parse(JSON.stringify(configurationJsonSchema())));
  });
});
