/** Slowness and failures on demand, for developers. */
export { printSimulation, readSimulation, type Simulation } from './simulation.ts';
