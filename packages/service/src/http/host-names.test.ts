import { hostTest } from './host-names.ts';

const isKnown = hostTest(['Records.example']);

describe('the host that a request means', () => {
  it.each([
    ['records.example', '10.0.0.7', true],
    ['RECORDS.example:4620', '10.0.0.7', true],
    ['other.example', '10.0.0.7', false],
    ['records.example.other.example', '10.0.0.7', false],
    ['localhost', '10.0.0.7', true],
    ['127.8.9.1:80', '10.0.0.7', true],
    ['[::1]:80', '::1', true],
    // The very address that it came to, however the system writes it; no other one.
    ['10.0.0.7:4620', '10.0.0.7', true],
    ['10.0.0.7', '::ffff:10.0.0.7', true],
    ['[fd00::2]:4620', 'fd00::2', true],
    ['10.0.0.8', '10.0.0.7', false],
    ['', '10.0.0.7', false],
    [undefined, undefined, false],
  ])('%s, at %s, is its own: %s', (host, localAddress, known) => {
    expect(isKnown({ headers: { host }, socket: { localAddress } })).toBe(known);
  });
});
