import { COLOUR, resolved } from '../../theme/colour.ts';
import { saveBlob, saveText } from '../../state/file.ts';

/** What a picture may be saved as. */
export type PictureKind = 'svg' | 'png';

/** Pixels of a saved picture to one of the screen, so that it is sharp in print. */
const SHARP = 2;

/** Room around a drawing: where the page's fonts are missing, texts are wider. */
const MARGIN = 14;

/** What style sheets decide of a drawing; a file has no style sheets. */
const STYLES = [
  'fill',
  'fill-opacity',
  'stroke',
  'stroke-width',
  'stroke-dasharray',
  'stroke-linecap',
  'stroke-linejoin',
  'stroke-opacity',
  'opacity',
  'font-family',
  'font-size',
  'font-weight',
  'font-variant-numeric',
  'letter-spacing',
  'text-anchor',
  'dominant-baseline',
  'display',
  'visibility',
  'paint-order',
] as const;

function withStyles(from: Element, to: Element): void {
  const own = getComputedStyle(from);
  const above = from.parentElement && getComputedStyle(from.parentElement);
  const changed = STYLES.filter((name) => {
    const value = own.getPropertyValue(name);
    // What an element above has already need not be said again.
    return (
      value !== '' && (to.tagName === 'svg' || value !== above?.getPropertyValue(name) || name === 'opacity')
    );
  });
  const text = changed.map((name) => `${name}:${own.getPropertyValue(name)}`).join(';');
  for (const name of [...STYLES, 'class', 'style', 'tabindex', 'role', 'data-testid'])
    to.removeAttribute(name);
  if (text !== '') to.setAttribute('style', text);
  Array.from(from.children).forEach((child, at) => {
    const copy = to.children.item(at);
    if (copy) withStyles(child, copy);
  });
}

/** A drawing of the page as an SVG file of its own: colours and fonts put in, on the page's paper. */
export function svgOf(drawing: SVGSVGElement): string {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  withStyles(drawing, copy);
  const { width, height } = drawing.getBoundingClientRect();
  const { baseVal: box } = drawing.viewBox;
  const inner = box && box.width > 0 ? box : { x: 0, y: 0, width, height };
  const size = {
    ...{ x: inner.x - MARGIN, y: inner.y - MARGIN },
    ...{ width: inner.width + 2 * MARGIN, height: inner.height + 2 * MARGIN },
  };
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  copy.setAttribute('viewBox', `${size.x} ${size.y} ${size.width} ${size.height}`);
  copy.setAttribute('width', String(size.width));
  copy.setAttribute('height', String(size.height));
  const paper = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  paper.setAttribute('x', String(size.x));
  paper.setAttribute('y', String(size.y));
  paper.setAttribute('width', String(size.width));
  paper.setAttribute('height', String(size.height));
  paper.setAttribute('fill', resolved(drawing, COLOUR.paper));
  copy.insertBefore(paper, copy.firstChild);
  return `${new XMLSerializer().serializeToString(copy)}\n`;
}

/** The largest drawing in a part of the page; signs are drawings, too. */
export function drawingIn(scope: Element): SVGSVGElement | undefined {
  const area = (one: SVGSVGElement): number => {
    const { width, height } = one.getBoundingClientRect();
    return width * height;
  };
  const [first, ...others] = scope.querySelectorAll('svg');
  return first && others.reduce((most, one) => (area(one) > area(most) ? one : most), first);
}

/** An SVG file as a PNG file. @throws Error where the browser cannot draw it. */
async function pngOf(svg: string): Promise<Blob> {
  const address = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = address;
    await image.decode();
    const canvas = document.createElement('canvas');
    canvas.width = Math.round(image.naturalWidth * SHARP);
    canvas.height = Math.round(image.naturalHeight * SHARP);
    canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
    return await new Promise((done, failed) => {
      canvas.toBlob((blob) => {
        if (blob) done(blob);
        else failed(new Error('The browser could not make a picture of it.'));
      });
    });
  } finally {
    URL.revokeObjectURL(address);
  }
}

/** Saves an SVG file as it is, or as PNG, under a name without its ending. */
export async function savePicture(name: string, kind: PictureKind, svg: string): Promise<void> {
  if (kind === 'svg') saveText(`${name}.svg`, svg, 'image/svg+xml');
  else saveBlob(`${name}.png`, await pngOf(svg));
}
