import cluster, { type Worker } from 'node:cluster';
import type { Logger } from 'pino';
import { AggregatorRegistry } from 'prom-client';
import { openPositionIndex, serversOf, type EngineOptions } from '../engine/index.ts';
import type { PositionIndex } from '../positions/index.ts';
import { answerCalls, caller, type Channel } from './calls.ts';
import { localFileProgressStore, type FileProgressStore } from '../export/index.ts';
import { configurationOf, type Configuration } from '../config/index.ts';
import { localRateCounters, type RateCounters } from '../http/index.ts';
import { attemptBounds, ownKey } from '../sign-in/index.ts';
import { fileProgressMethods, remoteFileProgressStore } from './file-progress-calls.ts';
import { rateCounterMethods, remoteRateCounters } from './rate-counter-calls.ts';
import { remotePositionIndex, positionIndexMethods } from './position-index-calls.ts';

/** Several processes that serve one port. */
export interface RunningCluster {
  /** The port that the workers listen on. */
  readonly port: number;
  /** Puts new workers in the place of all, one after the other, so that there is always somebody to answer. */
  renew(): Promise<void>;
  /** Stops all workers, each after its requests under way. */
  close(): Promise<void>;
}

/** A worker ended before it listened; it has stated why itself. */
export class WorkerError extends Error {
  override name = 'WorkerError';
  readonly exitCode: number;

  constructor(exitCode: number) {
    super('a worker did not start');
    this.exitCode = exitCode;
  }
}

/** Ms before a worker that has died is replaced. */
const pause = 1_000;

/**
 * Runs this program several times over as workers, and keeps totals and mileposts for all of
 * them. A worker that dies is replaced. Resolves when all of them listen.
 * @throws WorkerError
 */
export async function startWorkers(
  options: EngineOptions,
  { workers, logger }: { readonly workers: number; readonly logger: Logger },
): Promise<RunningCluster> {
  const { positionIndex } = options;
  if (positionIndex !== undefined && 'places' in positionIndex) {
    throw new TypeError('the position index of several workers is the one of their leader');
  }
  const servers = serversOf(options);
  // The workers take it over: a request of one may come to another.
  ownKey();
  const positions = openPositionIndex({ ...options, positionIndex }, workers, servers);
  const registry = new AggregatorRegistry();
  const { rates } = configurationOf(options.configuration ?? {}).configuration;
  const progressStore = localRateCounters(rates);
  const attempts = localRateCounters(attemptBounds);
  const methods = {
    ...positionIndexMethods(positions),
    ...fileProgressMethods(localFileProgressStore()),
    ...(progressStore && rateCounterMethods(progressStore)),
    ...(attempts && rateCounterMethods(attempts, 'Attempt')),
    metrics: () => registry.clusterMetrics(),
  };
  let closing = false;
  const fork = (): Worker => {
    const worker = cluster.fork();
    answerCalls(
      {
        send: (message) => {
          // It may have died while its call was answered.
          if (worker.isConnected()) worker.send(message);
        },
        listen: (listener) => worker.on('message', listener),
      },
      methods,
    );
    return worker;
  };
  const close = async (): Promise<void> => {
    closing = true;
    await Promise.all(Object.values(cluster.workers ?? {}).map(dismissed));
    await positions.close();
    await servers?.close();
  };
  try {
    const forked = Array.from({ length: workers }, fork);
    const [port] = await Promise.all(forked.map(listening));
    if (port === undefined) throw new Error('a cluster has one worker at least');
    const leaving = new Set<Worker>();
    // Who renews hears of those that do not start: the old ones stay.
    const starting = new Set<Worker>();
    cluster.on('exit', (worker, code, signal) => {
      if (closing || leaving.delete(worker) || starting.delete(worker)) return;
      logger.error({ code, signal }, 'A worker has died; another one takes its place');
      setTimeout(() => closing || fork(), pause).unref();
    });
    const renew = async (): Promise<void> => {
      for (const old of Object.values(cluster.workers ?? {})) {
        if (old === undefined || closing) continue;
        // The old one answers until the new one does.
        const next = fork();
        starting.add(next);
        await listening(next);
        starting.delete(next);
        leaving.add(old);
        await dismissed(old);
      }
    };
    let renewing: Promise<void> = Promise.resolve();
    return {
      port,
      close,
      // One that failed keeps no later one from being tried.
      renew: () => (renewing = renewing.catch(() => undefined).then(renew)),
    };
  } catch (thrown) {
    await close();
    throw thrown;
  }
}

function listening(worker: Worker): Promise<number> {
  return new Promise((resolve, reject) => {
    worker.once('listening', ({ port }) => resolve(port));
    worker.once('exit', (code: number | null) => reject(new WorkerError(code ?? 1)));
  });
}

function dismissed(worker: Worker | undefined): Promise<void> {
  return new Promise((resolve) => {
    if (worker === undefined || worker.isDead()) {
      resolve();
      return;
    }
    worker.once('exit', () => resolve());
    worker.process.kill('SIGTERM');
  });
}

/** What a worker has of the leading process. */
export interface WorkerContext {
  readonly positions: PositionIndex;
  readonly fileProgressStore: FileProgressStore;
  /** How many requests callers have made to all workers together; undefined where nothing is bounded. */
  readonly rates: (bounds: Configuration['rates']) => RateCounters | undefined;
  /** Sign-ins that failed, by sender. */
  readonly attempts: RateCounters;
  /** The metrics of all workers together (OpenMetrics). */
  readonly metrics: () => Promise<string>;
  /** Lets go of the leading process. */
  readonly leave: () => void;
}

/** Undefined in a process that is no worker. */
export function workerContext(): WorkerContext | undefined {
  if (!cluster.isWorker) return undefined;
  // Makes this worker answer the leading process's questions for metrics.
  new AggregatorRegistry();
  const channel: Channel = {
    send: (message) => process.send?.(message),
    listen: (listener) => process.on('message', listener),
  };
  const call = caller(channel);
  return {
    positions: remotePositionIndex(channel),
    fileProgressStore: remoteFileProgressStore(channel),
    rates: (bounds) =>
      localRateCounters(bounds) === undefined ? undefined : remoteRateCounters(channel),
    attempts: remoteRateCounters(channel, 'Attempt'),
    metrics: async () => {
      const text = await call('metrics', []);
      return typeof text === 'string' ? text : '';
    },
    // By the worker's own word: the process ends of itself, with its own exit code.
    leave: () => void cluster.worker?.disconnect(),
  };
}
