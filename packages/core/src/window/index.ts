/** Block, page, milepost, ruler and scroll arithmetic shared by service and client. */
export { approach, nearRows, type Approach, type Landmarks } from './approach.ts';
export { blocksOf, type BlockRange } from './blocks.ts';
export { pageCount, pageSet, type PageSet } from './pages.ts';
export { rulerMarks, valueAt, type RulerMark, type RulerOptions, type Tick } from './ruler.ts';
export { ScrollScale } from './scroll-scale.ts';
export { Outline, type LinePath } from './outline.ts';
