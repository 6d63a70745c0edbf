/** The database's own schema, read and published. */
export { readCatalog } from './read.ts';
export type { Catalog, Published } from './publish.ts';
