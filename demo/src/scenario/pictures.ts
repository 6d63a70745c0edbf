import { Router } from 'express';

const hulls = ['#7a3b2e', '#2f5d62', '#4a4e69', '#6b705c', '#8d6a3f', '#33415c'];
const bands = ['#e9c46a', '#f4f1de', '#d8a48f', '#bcd4de', '#e5989b', '#c5d86d'];

/** Small drawings of boats: `/{id}.svg`, the same boat always the same drawing. */
export function pictures(): Router {
  const router = Router();
  router.get('/:file', (request, response, next) => {
    const id = /^(\d{1,9})\.svg$/.exec(request.params.file)?.[1];
    if (id === undefined) {
      next();
      return;
    }
    response
      .set('Cache-Control', 'public, max-age=86400')
      .type('image/svg+xml')
      .send(draw(Number(id)));
  });
  return router;
}

function draw(id: number): string {
  const pick = (salt: number, below: number): number =>
    Math.floor((Math.abs(Math.sin(id * 12.9898 + salt * 78.233)) * 43758.5453) % below);
  const hull = hulls[pick(1, hulls.length)] ?? '#333';
  const band = bands[pick(2, bands.length)] ?? '#eee';
  const cabin = 16 + pick(3, 24);
  const left = 14 + pick(4, 14);
  const windows = Array.from({ length: Math.floor(cabin / 9) }, (_, index) => {
    return `<circle cx="${left + 6 + index * 9}" cy="17" r="2.2" fill="#fdf6e3"/>`;
  });
  const funnel =
    pick(5, 3) === 0 ? '' : `<rect x="${left + 3}" y="5" width="4" height="8" fill="${hull}"/>`;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 72 36" role="img" aria-label="A boat">
${funnel}<rect x="${left}" y="12" width="${cabin}" height="11" rx="2" fill="${band}" stroke="${hull}"/>
${windows.join('')}<path d="M4 22h62l-6 9H12z" fill="${hull}"/><path d="M6 25h58" stroke="${band}" stroke-width="1.5"/>
<path d="M0 33q6-3 12 0t12 0 12 0 12 0 12 0 12 0" fill="none" stroke="#8fb3bf" stroke-width="1.5"/></svg>
`;
}
