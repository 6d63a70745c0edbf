#!/usr/bin/env node
import cluster from 'node:cluster';
import { run } from './run.ts';

// Anyone who reads the output may stop early, as `head` does.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit();
});

// Not awaited here: what is loaded later may need what stands next to this, which would wait for its end.
void run(process.argv.slice(2), {
  stdout: process.stdout,
  stderr: process.stderr,
  environment: process.env,
}).then((code) => {
  process.exitCode = code;
  // The channel to the process that started it would keep a worker alive that could not begin.
  const { worker } = cluster;
  if (code !== 0 && worker?.exitedAfterDisconnect !== true) worker?.disconnect();
});
