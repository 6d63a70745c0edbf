/**
 * `npm run lint:words`: counts banned words in documents, messages, comments and names, and sentences that are
 * too long. setup/words.json has the words with their replacements, the exceptions, and the budget of each
 * area. A budget can only go down: --lower writes the current counts where they are smaller. --list prints
 * every find.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { filesMatching, messageFiles, textsIn } from './messages.mjs';
import { root } from './prepare.mjs';

const path = join(root, 'setup', 'words.json');
const settings = JSON.parse(readFileSync(path, 'utf8'));
const { banned, exceptions, budgets, longestSentence } = settings;

const areas = {
  documents: filesMatching(['README.md', 'SECURITY.md', 'docs/*.md']),
  messages: messageFiles(),
  code: filesMatching([
    'packages/*.ts',
    'packages/*.tsx',
    'demo/*.ts',
    'bench/*.ts',
    'setup/*.mjs',
  ]),
};

const word = new RegExp(`(?<![a-z])(${Object.keys(banned).join('|')})(?![a-z])`, 'gi');
/** Names are read word by word: `keptRows` is "kept Rows". */
const spaced = (text) => text.replace(/([a-z])([A-Z])/g, '$1 $2');

/** Sentences of prose: without code, tables, lists of links and headings. */
function sentencesOf(text) {
  const prose = text
    .replace(/```[^]*?```/g, '')
    .replace(/^\s*(\||#|<|\[!).*$/gm, '')
    .replace(/`[^`]*`/g, 'x')
    .replace(/\]\([^)]*\)/g, ']');
  return prose.split(/(?<=[.!?:])\s+|\n\s*[-*\d]+[.)]?\s|\n\s*\n/).map((one) => one.trim());
}

const finds = {};
for (const [area, files] of Object.entries(areas)) {
  finds[area] = [];
  finds[`${area}, long sentences`] = [];
  for (const file of files) {
    const text = readFileSync(join(root, file), 'utf8');
    const allowed = new Set(Object.keys(exceptions[file] ?? {}));
    const parts = area === 'messages' ? textsIn(text) : [text];
    for (const part of parts) {
      for (const [found] of spaced(part).matchAll(word)) {
        if (!allowed.has(found.toLowerCase())) {
          finds[area].push(`${file}: ${found} (${banned[found.toLowerCase()]})`);
        }
      }
    }
    if (area === 'code') continue;
    const sentences = area === 'messages' ? parts : sentencesOf(text);
    for (const sentence of sentences) {
      const count = sentence.split(/\s+/).filter((one) => /\w/.test(one)).length;
      const single = area === 'documents' || !/\n|[.!?] /.test(sentence);
      if (single && count > longestSentence) {
        finds[`${area}, long sentences`].push(
          `${file}: ${count} words: ${sentence.slice(0, process.argv.includes('--list') ? 900 : 80)}…`,
        );
      }
    }
  }
}

const next = { ...budgets };
for (const [area, found] of Object.entries(finds)) {
  const budget = budgets[area] ?? 0;
  if (process.argv.includes('--list')) for (const one of found) process.stdout.write(`${one}\n`);
  process.stdout.write(`${area}: ${found.length} of ${budget}\n`);
  if (found.length > budget) {
    process.exitCode = 1;
    for (const one of found.slice(0, 20)) process.stderr.write(`  ${one}\n`);
  }
  next[area] = Math.min(budget, found.length);
}
if (process.argv.includes('--lower')) {
  writeFileSync(path, `${JSON.stringify({ ...settings, budgets: next }, null, 2)}\n`);
}
