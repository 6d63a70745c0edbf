/** Several processes on one port, with one memory for totals and mileposts. */
export { startWorkers, workerContext, WorkerError, type WorkerContext } from './cluster.ts';
