/** What needs no page: for servers, loaders and components that are drawn on a server. */
export { firstRows, type FirstRows, type FirstRowsOptions } from './records/first-rows.ts';
