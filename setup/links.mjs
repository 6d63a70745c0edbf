/** `npm run lint:links`: every relative link of the documents leads to a file, and every anchor to a heading. */
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { root } from './prepare.mjs';

const listed = execFileSync('git', ['ls-files', '*.md'], { cwd: root, encoding: 'utf8' });
const files = listed.trim().split('\n');

/** The anchor of a heading, as renderers of Markdown make it. */
const anchorOf = (heading) =>
  heading
    .trim()
    .toLowerCase()
    .replace(/[^\w\s-]/g, '')
    .replace(/\s/g, '-');

function anchorsOf(path) {
  const text = readFileSync(path, 'utf8').replace(/```[^]*?```/g, '');
  return new Set([...text.matchAll(/^#{1,6} (.*)$/gm)].map(([, heading]) => anchorOf(heading)));
}

let broken = 0;
for (const file of files) {
  const text = readFileSync(join(root, file), 'utf8').replace(/```[^]*?```|`[^`\n]*`/g, '');
  for (const [, target] of text.matchAll(/\]\(([^()\s]+)\)/g)) {
    if (/^[a-z]+:/.test(target)) continue;
    const [path, anchor] = target.split('#');
    const to = path === '' ? join(root, file) : join(root, dirname(file), path);
    const leads = existsSync(to) && (anchor === undefined || anchorsOf(to).has(anchor));
    if (leads) continue;
    broken += 1;
    process.stderr.write(`${file}: broken link ${target}\n`);
  }
}
process.stdout.write(`${files.length} documents, ${broken} broken links\n`);
if (broken > 0) process.exitCode = 1;
