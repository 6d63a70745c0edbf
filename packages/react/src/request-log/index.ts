/** What happened: the requests of a page, loaded when it is first opened. */
export { RequestLogDrawer } from './request-log-drawer.tsx';
