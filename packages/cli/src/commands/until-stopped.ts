/** Resolves at Ctrl-C or SIGTERM. A second one ends the process at once. */
export function untilStopped(): Promise<NodeJS.Signals> {
  return new Promise((resolve) => {
    const signals = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const;
    const stop = (signal: NodeJS.Signals): void => {
      for (const one of signals) process.off(one, stop);
      resolve(signal);
    };
    for (const one of signals) process.on(one, stop);
  });
}
