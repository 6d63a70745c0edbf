import type { Terminal } from '../terminal.ts';

/** Shows how far a long piece of work is. */
export interface Progress {
  readonly say: (line: string) => void;
  readonly step: (name: string, done: number, all: number) => void;
}

/** On a terminal one line that changes; elsewhere a line per quarter. */
export function progressOn({ stderr }: Terminal): Progress {
  let open = false;
  let message = '';
  const close = (): void => {
    if (open) stderr.write('\n');
    open = false;
  };
  return {
    say: (line) => {
      close();
      stderr.write(`  ${line}\n`);
    },
    step: (name, done, all) => {
      const share = all === 0 ? 1 : done / all;
      const count = `${done.toLocaleString('en')} of ${all.toLocaleString('en')}`;
      if (stderr.isTTY === true) {
        const filled = Math.round(share * 24);
        const bar = '█'.repeat(filled) + '░'.repeat(24 - filled);
        stderr.write(`\r\u001b[2K  ${name.padEnd(9)} ${bar} ${count}`);
        open = true;
        if (share === 1) close();
        return;
      }
      const quarter = `${name} ${Math.floor(share * 4)}`;
      if (quarter !== message) stderr.write(`  ${name}: ${count}\n`);
      message = quarter;
    },
  };
}
