/** Views that are kept under names: loaded with the first table that offers them. */
export { KeptViewsLine } from './kept-views-line.tsx';
