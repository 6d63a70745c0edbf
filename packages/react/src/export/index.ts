/** Taking rows out as files: loaded with the first table that offers it. */
export { ExportLine } from './export-line.tsx';
