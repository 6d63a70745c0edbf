/** The database's own schema, read and published. */
export { readCatalog, readRole, type RoleRow } from './read.ts';
export { remarksOf, type Catalog, type Published } from './publish.ts';
