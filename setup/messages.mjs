/** Where the texts of the interface, of errors and of the command line stand. */
import { execFileSync } from 'node:child_process';
import { root } from './prepare.mjs';

const patterns = [
  'packages/react/src/messages/english*.ts',
  'packages/console/src/words/english.ts',
  'packages/core/src/problem/*.ts',
  'packages/service/src/http/problems.ts',
  'packages/service/src/http/refusals.ts',
  'packages/cli/src/commands/*.ts',
];

/** Files of the repository that match patterns of git, without tests. */
export function filesMatching(wanted) {
  const listed = execFileSync('git', ['ls-files', ...wanted], { cwd: root, encoding: 'utf8' });
  return listed
    .trim()
    .split('\n')
    .filter((file) => !/\.test\.tsx?$|\/testing\/|\/words\.mjs$/.test(file));
}

export const messageFiles = () => filesMatching(patterns);

/** The texts in quotes of a file of messages, of two words or more. */
export const textsIn = (source) =>
  [...source.matchAll(/'((?:[^'\\\n]|\\.)*)'|"([^"\n]*)"|`((?:[^`\\]|\\.)*)`/g)]
    .map(([, one, other, template]) => one ?? other ?? template.replace(/\$\{[^}]*\}/g, 'x'))
    .filter((text) => /\s/.test(text));
