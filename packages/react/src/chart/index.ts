/** Charts of what a view shows: loaded with the first of them. */
export { ChartBand } from './chart-band.tsx';
