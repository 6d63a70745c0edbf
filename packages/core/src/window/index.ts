/** Block, page and scroll arithmetic shared by service and client. */
export { blocksOf, type BlockRange } from './blocks.ts';
export { pageCount, pageNumbers } from './pages.ts';
export { ScrollScale } from './scroll-scale.ts';
