/** `npm run documents`: writes the parts of the documentation that the code knows best. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { catalogue } from '../packages/core/dist/problem/index.js';
import { configurationJsonSchema } from '../packages/service/dist/index.js';
import { root } from './prepare.mjs';

const docs = join(root, 'docs');

const problems = Object.entries(catalogue).map(
  ([code, { status, example, mend }]) =>
    `## \`${code}\`\n\nStatus ${status}. Example: \`${example}\`\n\n${mend}\n`,
);

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
