/** What happened: the requests of a page, loaded when it is first opened. */
export { HappenedDrawer } from './happened-drawer.tsx';
