/** The benchmarks. Figures of one run on one machine; ratios where there is something to hold against. */
import { compileFigures } from './compile.ts';

for (const { what, value } of compileFigures()) process.stdout.write(`${what}: ${value}\n`);
