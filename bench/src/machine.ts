import { readFileSync } from 'node:fs';
import { availableParallelism, cpus, totalmem } from 'node:os';

/** The kind of machine, in words. */
export function machine(): string {
  const model = cpus()[0]?.model.trim() ?? 'unknown processor';
  const memory = Math.round(totalmem() / 2 ** 30);
  return `${availableParallelism()} cores (${model}), ${memory} GB of memory, Node.js ${process.version}`;
}

/** Time that the machine's host gave to others, and all time, as the kernel counts them. */
export function stolenTime(): { readonly stolen: number; readonly all: number } {
  const [line = ''] = readFileSync('/proc/stat', 'utf8').split('\n');
  const parts = line.trim().split(/\s+/).slice(1).map(Number);
  return { stolen: parts[7] ?? 0, all: parts.slice(0, 8).reduce((sum, part) => sum + part, 0) };
}

/** The memory a process has held at most since it was measured last, in MB. */
export class MemoryWatch {
  private most = 0;
  private readonly check: () => void;
  private readonly timer: ReturnType<typeof setInterval>;

  constructor(processes: () => readonly number[]) {
    this.check = () => {
      for (const pid of processes()) this.most = Math.max(this.most, residentMegabytes(pid));
    };
    this.timer = setInterval(this.check, 200);
  }

  /** Stops, and gives the greatest that any one process held. */
  stop(): number {
    clearInterval(this.timer);
    this.check();
    return this.most;
  }
}

function residentMegabytes(pid: number): number {
  try {
    const status = readFileSync(`/proc/${pid}/status`, 'utf8');
    return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
  } catch {
    return 0;
  }
}
