/** `npm run documents`: writes the parts of the documentation that the code knows best. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { functions, resolvedFunctions } from '../packages/core/dist/check/index.js';
import { catalogue, problemDocumentation } from '../packages/core/dist/problem/index.js';
import { configurationJsonSchema } from '../packages/service/dist/index.js';
import { root } from './prepare.mjs';

const docs = join(root, 'docs');

const problems = Object.entries(catalogue).map(([code, { status }]) => {
  const { example, mend } = problemDocumentation[code];
  return `## \`${code}\`\n\nStatus ${status}. Example: \`${example}\`\n\n${mend}\n`;
});

writeFileSync(
  join(docs, 'problems.md'),
  `# Problems

Every mistake of a request has a code. An answer of the type \`application/problem+json\` holds all
of them at once in \`errors\`, each with the \`parameter\`, the \`position\` and \`length\` in its decoded
text (in UTF-16 units), a \`message\` and, where there is one, a \`hint\`. This page is written by
\`npm run documents\`.

${problems.join('\n')}`,
);

writeFileSync(
  join(docs, 'ephoros.schema.json'),
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
  join(docs, 'functions.md'),
  `# Functions of the filter language

Names are read in any letter case; arguments in brackets may be left out. Rows can be grouped by them,
too ([groups](groups.md)). This page is written by \`npm run documents\`.

| function | gives |
| --- | --- |
${calls.join('\n')}

The temporal functions of CQL2 compare two stretches of time (dates, moments, or
\`INTERVAL(start, end)\`): \`T_AFTER\`, \`T_BEFORE\`, \`T_CONTAINS\`, \`T_DISJOINT\`, \`T_DURING\`,
\`T_EQUALS\`, \`T_FINISHEDBY\`, \`T_FINISHES\`, \`T_INTERSECTS\`, \`T_MEETS\`, \`T_METBY\`,
\`T_OVERLAPPEDBY\`, \`T_OVERLAPS\`, \`T_STARTEDBY\`, \`T_STARTS\`.
`,
);
