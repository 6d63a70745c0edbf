/** What becomes of callers when something fails: tried on one machine, and written down. */
import { writeFileSync } from 'node:fs';
import { machine } from '../machine.ts';
import { ofCallers, underLoad } from './faults.ts';
import { page } from './page.ts';
import { setUp } from './setting.ts';

const say = (line: string): void => void process.stderr.write(`  ${line}\n`);

const setting = await setUp(say);
try {
  const callers = await ofCallers(setting, say);
  const load = await underLoad(setting, say);
  writeFileSync('docs/reliability.md', page({ ...load, callers, machine: machine() }));
  say('Written: docs/reliability.md');
  if (load.wrong > 0) process.exitCode = 1;
} finally {
  await setting.close();
}
