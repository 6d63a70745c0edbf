/**
 * `npm run lint:prose`: counts passive voice, weasel words and repeated words in the documents and in the messages. The
 * budgets of setup/prose.json can only go down: --lower writes the current counts where they are smaller. --list
 * prints every find.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import remarkGfm from 'remark-gfm';
import remarkParse from 'remark-parse';
import remarkRetext from 'remark-retext';
import retextEnglish from 'retext-english';
import retextIntensify from 'retext-intensify';
import retextPassive from 'retext-passive';
import retextRepeatedWords from 'retext-repeated-words';
import { unified } from 'unified';
import { VFile } from 'vfile';
import { filesMatching, messageFiles, textsIn } from './messages.mjs';
import { root } from './prepare.mjs';

const path = join(root, 'setup', 'prose.json');
const budgets = JSON.parse(readFileSync(path, 'utf8'));

/** Words that the checker takes for fillers, and that have a meaning of their own here. */
const ignore = (
  'that all most may own only so sort can read again then says say up start over many must found back far estimate ' +
  'about right try works still down finds supports always like suggest looks exactly close every ' +
  'know likely see seen run need needs takes means mean several too also'
).split(' ');

const rules = unified()
  .use(retextEnglish)
  .use(retextPassive)
  .use(retextIntensify, {
    ignore: [...ignore, 'at least', 'so far', 'sort of', 'clear', 'suggests'],
  })
  .use(retextRepeatedWords);
const markdown = unified().use(remarkParse).use(remarkGfm).use(remarkRetext, rules);

/** What the checker finds in some Markdown. */
async function findsIn(file, text) {
  const read = new VFile({ path: file, value: text });
  await markdown.run(markdown.parse(read), read);
  // A value that a message names stands as "x" here.
  return read.messages.filter(({ reason }) => !reason.includes('repeated `x`'));
}

const finds = {};
for (const [area, files, textOf] of [
  ['documents', filesMatching(['README.md', 'SECURITY.md', 'docs/*.md']), (text) => text],
  ['messages', messageFiles(), (text) => textsIn(text).join('\n\n')],
]) {
  for (const file of files) {
    for (const { source, place, message } of await findsIn(
      file,
      textOf(readFileSync(join(root, file), 'utf8')),
    )) {
      const rule = `${area}: ${source}`;
      const line = place?.start?.line ?? place?.line;
      (finds[rule] ??= []).push(`${file}:${line}: ${message}`);
    }
  }
}

const next = {};
for (const rule of new Set([...Object.keys(budgets), ...Object.keys(finds)])) {
  const { length: count } = finds[rule] ?? [];
  const budget = budgets[rule] ?? 0;
  if (process.argv.includes('--list')) {
    for (const one of finds[rule] ?? []) process.stdout.write(`${one}\n`);
  }
  process.stdout.write(`${rule}: ${count} of ${budget}\n`);
  if (count > budget) {
    process.exitCode = 1;
    for (const one of finds[rule].slice(0, 20)) process.stderr.write(`  ${one}\n`);
  }
  next[rule] = Math.min(budget, count);
}
if (process.argv.includes('--lower')) {
  writeFileSync(path, `${JSON.stringify(next, null, 2)}\n`);
}
