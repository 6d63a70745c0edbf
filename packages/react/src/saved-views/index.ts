/** Views that are stored under names: loaded with the first table that offers them. */
export { SavedViewsLine } from './saved-views-line.tsx';
