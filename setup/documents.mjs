/**
 * `npm run documents`: writes the pages of the documentation that are generated from code. With --check it
 * writes nothing, and fails if a page differs.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { functions, resolvedFunctions } from '../packages/core/dist/check/index.js';
import { catalogue, problemDocumentation } from '../packages/core/dist/problem/index.js';
import { programFor } from '../packages/cli/dist/run.js';
import { configurationJsonSchema } from '../packages/service/dist/index.js';
import { root } from './prepare.mjs';

const docs = join(root, 'docs');
const pages = ['problems.md', 'ephoros.schema.json', 'functions.md', 'cli.md'];
const isCheck = process.argv.includes('--check');
const into = isCheck ? mkdtempSync(join(tmpdir(), 'documents-')) : docs;

const problems = Object.entries(catalogue).map(([code, { status }]) => {
  const { example, fix } = problemDocumentation[code];
  return `## \`${code}\`\n\nStatus ${status}. Example: \`${example}\`\n\n${fix}\n`;
});

writeFileSync(
  join(into, 'problems.md'),
  `# Errors

The service answers invalid requests with \`application/problem+json\` (RFC 9457). The member \`errors\` lists
all errors of the request. Each error has a \`code\`, the \`parameter\`, the \`position\` and \`length\` in its
decoded text (in UTF-16 units), a \`message\` and often a \`hint\`. \`npm run documents\` generates this page.

${problems.join('\n')}`,
);

writeFileSync(
  join(into, 'ephoros.schema.json'),
  `${JSON.stringify(configurationJsonSchema(), null, 2)}\n`,
);

const parameterNames = {
  text: 'text',
  number: 'number',
  time: 'date',
  list: 'list',
  digits: 'digits',
  zone: 'zone',
};

const calls = [
  ...Object.entries(functions).map(([name, { parameters, optional = 0, meaning }]) => {
    const first = parameters.length - optional;
    // BIN takes times as well, and durations as their widths.
    const words =
      name === 'bin'
        ? ['number or date', 'width', 'zone']
        : parameters.map((parameter) => parameterNames[parameter]);
    const written = words.map((word, index) => (index < first ? word : `[${word}]`)).join(', ');
    return `| \`${name.toUpperCase()}(${written})\` | ${meaning} |`;
  }),
  ...Object.entries(resolvedFunctions).map(
    ([name, meaning]) => `| \`${name.toUpperCase()}(…)\` | ${meaning} |`,
  ),
];

writeFileSync(
  join(into, 'functions.md'),
  `# Functions of the filter language

Function names are case-insensitive. Arguments in brackets are optional. Groups may use these functions too
([groups](groups.md)). \`npm run documents\` generates this page.

| Function | Result |
| --- | --- |
${calls.join('\n')}

The temporal functions of CQL2 compare two time ranges (dates, timestamps, or
\`INTERVAL(start, end)\`): \`T_AFTER\`, \`T_BEFORE\`, \`T_CONTAINS\`, \`T_DISJOINT\`, \`T_DURING\`,
\`T_EQUALS\`, \`T_FINISHEDBY\`, \`T_FINISHES\`, \`T_INTERSECTS\`, \`T_MEETS\`, \`T_METBY\`,
\`T_OVERLAPPEDBY\`, \`T_OVERLAPS\`, \`T_STARTEDBY\`, \`T_STARTS\`.
`,
);

/** A terminal that prints nothing, without the environment of this machine. */
const terminal = {
  environment: {},
  stdout: { isTTY: false, columns: 100, write: () => true },
  stderr: { isTTY: false, columns: 100, write: () => true },
};

function commandText(command, names) {
  const help = command.createHelp();
  const cell = (text) => text.replaceAll('|', '\\|').replaceAll('\n', ' ');
  const title = [...names, command.name()].join(' ');
  const own = command.commands.filter((one) => one.name() !== 'help');
  if (own.length > 0) {
    const parts = own.map((one) => commandText(one, [...names, command.name()]));
    return `## ${title}\n\n${cell(command.description())}\n\n${parts.join('\n').replaceAll('\n## ', '\n### ').replace(/^## /, '### ')}`;
  }
  const usage = `\`${title} ${command.usage()}\``;
  const lines = [
    ...command.registeredArguments.map((one) => [one.name(), one.description]),
    ...help.visibleOptions(command).map((one) => [one.flags, help.optionDescription(one)]),
  ].filter(([flags]) => !flags.startsWith('-h'));
  const rows = lines.map(([flags, text]) => `| \`${cell(flags)}\` | ${cell(text)} |`);
  const table =
    rows.length === 0 ? '' : `\n\n| Option | Meaning |\n| --- | --- |\n${rows.join('\n')}`;
  return `## ${title}\n\n${cell(command.description())}\n\n${usage}${table}\n`;
}

const program = programFor(terminal);
writeFileSync(
  join(into, 'cli.md'),
  `# Command line

Install it with \`npm install -g @ephoros/cli\`, or run \`node packages/cli/bin/ephoros.mjs\` in a clone.
\`ephoros <command> --help\` prints examples. \`npm run documents\` generates this page.

Exit codes: 0 done, 1 failed, 2 bad usage, 3 the service refused the query or the change, 4 the service or
the database is unavailable, 5 conflict: rows have changed.

${program.commands
  .filter((one) => one.name() !== 'help')
  .map((one) => commandText(one, ['ephoros']))
  .join('\n')}`,
);

const prettier = join(root, 'node_modules', '.bin', 'prettier');
const config = join(root, '.prettierrc.json');
for (const page of pages) {
  const path = join(into, page);
  execFileSync(prettier, ['--config', config, '--ignore-path', '/dev/null', '--write', path], {
    stdio: 'ignore',
  });
  if (isCheck && readFileSync(path, 'utf8') !== readFileSync(join(docs, page), 'utf8')) {
    process.stderr.write(`docs/${page} is not current. Run: npm run documents\n`);
    process.exitCode = 1;
  }
}
if (isCheck) rmSync(into, { recursive: true });
