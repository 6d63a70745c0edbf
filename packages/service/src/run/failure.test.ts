import { Failure } from './failure.ts';

/** What pg throws, as far as it is read. */
const thrown = (code: string, message = ''): Error => Object.assign(new Error(message), { code });

it.each([
  ['53100', 'could not extend file: No space left on device', 'no-space'],
  ['53400', 'temporary file size exceeds temp_file_limit (64kB)', 'temp-limit'],
  ['53200', 'out of memory', 'no-memory'],
  ['54001', 'stack depth limit exceeded', 'too-complex'],
  ['55000', 'materialized view "tolls" has not been populated', 'not-populated'],
  ['55000', 'cannot lastval', 'unknown'],
  ['0A000', 'cannot access temporary or unlogged relations during recovery', 'not-on-replica'],
  ['0A000', 'cached plan must not change result type', 'changed'],
  ['42883', 'operator does not exist: integer = text', 'mismatched'],
  ['42804', 'CASE types text and integer cannot be matched', 'mismatched'],
  ['42P18', 'could not determine data type of parameter $1', 'mismatched'],
  ['XX000', 'something else', 'unknown'],
])('%s "%s" is %s', (code, message, kind) => {
  expect(Failure.from(thrown(code, message)).kind).toBe(kind);
});
