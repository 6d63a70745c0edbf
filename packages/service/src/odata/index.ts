/** The published tables as an OData 4.01 service, read-only. */
export { createOData } from './routes.ts';
export { odataError } from './error.ts';
