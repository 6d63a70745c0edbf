/** A drawing as a file of its own. */
export function svgText(svg: SVGSVGElement, ground: string): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  const sheet = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  sheet.setAttribute('width', '100%');
  sheet.setAttribute('height', '100%');
  sheet.setAttribute('fill', ground);
  copy.prepend(sheet);
  return new XMLSerializer().serializeToString(copy);
}

/** Dots of a picture for each px, so that it is sharp on paper. */
const sharpness = 2;

/** The same as a picture of dots. */
export async function pngOf(svg: SVGSVGElement, ground: string): Promise<Blob> {
  const { width, height } = svg.viewBox.baseVal;
  const image = new Image();
  // As an address of its own: pages that are careful load no pictures from anywhere else.
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svgText(svg, ground))}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = width * sharpness;
  canvas.height = height * sharpness;
  const context = canvas.getContext('2d');
  if (context === null) throw new Error('The browser draws no pictures here.');
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) => {
    canvas.toBlob((blob) => {
      if (blob === null) reject(new Error('The browser draws no pictures here.'));
      else resolve(blob);
    }, 'image/png');
  });
}
