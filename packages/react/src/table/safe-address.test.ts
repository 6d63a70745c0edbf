import { linkAddress, pictureAddress } from './safe-address.ts';

it.each([
  '/boats/1.svg',
  'boats/1.svg',
  '../1.png',
  'https://pictures.example/1.png',
  'http://pictures.example/1.png',
  'data:image/png;base64,AAAA',
  'DATA:image/svg+xml,<svg/>',
])('shows the picture at %s', (text) => {
  expect(pictureAddress(text)).toBe(text);
});

it.each([
  'javascript:alert(1)',
  ' java\nscript:alert(1)',
  '\u0001javascript:alert(1)',
  'file:///etc/passwd',
  'data:text/html,<script>alert(1)</script>',
  'data:,image/',
  'blob:https://x/1',
  'ftp://x/1.png',
  'about:blank',
  'http://[',
])('loads nothing from %j', (text) => {
  expect(pictureAddress(text)).toBeUndefined();
  expect(linkAddress(text)).toBeUndefined();
});

it.each([
  ['ann@example.com', 'mailto:ann@example.com'],
  ['https://example.com', 'https://example.com'],
  ['/path', '/path'],
  ['plain', undefined],
  ['data:image/png;base64,AAAA', undefined],
])('links %s to %s', (text, address) => {
  expect(linkAddress(text)).toBe(address);
});
