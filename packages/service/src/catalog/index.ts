/** The database's own schema, read and published. */
export { readCatalog, type Catalog } from './read.ts';
export type { Published } from './publish.ts';
