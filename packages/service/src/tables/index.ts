/** Published tables, open for questions: the ground that the routes stand on, and programs. */
export { CurrentCatalog } from './current-catalog.ts';
export {
  keptCatalog,
  openGround,
  openTables,
  tablesOver,
  type Ground,
  type OpenTable,
  type OpenWindow,
  type Tables,
  type TablesOptions,
} from './open-tables.ts';
