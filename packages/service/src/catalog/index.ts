/** The database's own schema, read and published. */
export { readCatalog, readCatalogMark, readRole, type RoleRow } from './read.ts';
export { remarksOf } from './describe.ts';
export type { Catalog, Published, TableChanges } from './publish.ts';
export type { Referring } from './referring.ts';
export { withOpening } from './opening.ts';
