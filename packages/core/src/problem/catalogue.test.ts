import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { catalogue, nearest, problemDocumentation } from './index.ts';

const root = join(process.cwd());
const sources = ['packages/core/src', 'packages/service/src'].flatMap((folder) =>
  readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' })
    .filter(
      (file) =>
        file.endsWith('.ts') &&
        !file.endsWith('.test.ts') &&
        !/catalogue\.ts$|documentation\.ts$/.test(file),
    )
    .map((file) => readFileSync(join(root, folder, file), 'utf8')),
);

describe('the catalogue of problems', () => {
  const codes = Object.keys(catalogue);

  it('holds exactly the codes that the code uses', () => {
    const text = sources.join('\n');
    expect(codes.filter((code) => !text.includes(`'${code}'`))).toEqual([]);
  });

  it('is documented code by code', () => {
    const documented = readFileSync(join(root, 'docs/problems.md'), 'utf8');
    const named = [...documented.matchAll(/^## `([a-z-]+)`$/gm)].map(([, code]) => code);
    expect(named).toEqual(codes);
    expect(Object.keys(problemDocumentation)).toEqual(codes);
  });
});

describe('the nearest name', () => {
  it('is one that was probably meant, or none', () => {
    const names = ['passed_at', 'toll', 'note', 'status'];
    expect(nearest('pased_at', names)).toBe('passed_at');
    expect(nearest('TOLL', names)).toBe('toll');
    expect(nearest('nope', names)).toBe('note');
    expect(nearest('xyzzy', names)).toBeUndefined();
    expect(nearest('x'.repeat(10_000), names)).toBeUndefined();
  });
});
