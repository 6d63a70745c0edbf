import fc from 'fast-check';
import { ownPath } from './index.ts';

it.each([
  ['/tables/berths?sort=-id', '/tables/berths?sort=-id'],
  ['/', '/'],
  ['/tables/a%2Fb', '/tables/a%2Fb'],
  ['/tables/../tables/b', '/tables/b'],
  ['/?back=//evil.test', '/?back=//evil.test'],
])('keeps the path %s', (text, path) => {
  expect(ownPath(text)).toBe(path);
});

it.each([
  null,
  undefined,
  '',
  'tables',
  'http://evil.test/',
  'javascript:alert(1)',
  '//evil.test',
  '/\\evil.test',
  '\\\\evil.test',
  '/\t/evil.test',
  '/\n/evil.test',
  '/.//evil.test/x',
  '/..//evil.test',
  '/%2e//evil.test',
  '/%2E%2e//evil.test',
  '/x/..//evil.test',
  '/./\\evil.test',
  '/;@evil.test/../..//evil.test',
])('takes %j for no path of this service', (text) => {
  expect(ownPath(text)).toBe('/');
});

it('leads to this service wherever it is read', () => {
  const part = fc.constantFrom(
    '/',
    '\\',
    '.',
    '..',
    '%2e',
    '\t',
    '\n',
    'a',
    'evil.test',
    ':',
    '@',
    '?',
    '#',
    'http:',
  );
  fc.assert(
    fc.property(fc.array(part, { maxLength: 12 }), (parts) => {
      const path = ownPath(parts.join(''));
      const service = 'https://desk.example';
      expect(path.startsWith('/')).toBe(true);
      expect(new URL(path, service).origin).toBe(service);
      expect(ownPath(path)).toBe(path);
    }),
    { numRuns: 2_000 },
  );
});
