/** Several processes on one port, with one memory for totals and mileposts. */
export { leadCrew, membership, WorkerError, type Crew, type CrewOptions } from './crew.ts';
