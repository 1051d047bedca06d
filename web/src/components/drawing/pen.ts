import { xmlText } from '@herzschlag/core';

/** What the drawings of time need of a canvas; a picture that becomes a file has the same. */
export type Pen = Pick<
  CanvasRenderingContext2D,
  | 'strokeStyle'
  | 'fillStyle'
  | 'lineWidth'
  | 'globalAlpha'
  | 'font'
  | 'textBaseline'
  | 'beginPath'
  | 'moveTo'
  | 'lineTo'
  | 'stroke'
  | 'fillRect'
  | 'clearRect'
  | 'fillText'
> & { measureText: (text: string) => { width: number } };

/** The width of a letter of the fixed-width font, as a share of its size. */
const LETTER = 0.6;

/** A colour; gradients and patterns are not drawn here. */
const plain = (style: Pen['fillStyle']): string => (typeof style === 'string' ? style : 'black');

const short = (value: number): string => String(Math.round(value * 100) / 100);

/** A pen that writes down what is drawn as elements of an SVG file. */
export function svgPen(): { pen: Pen; elements: string[] } {
  const elements: string[] = [];
  let path: string[] = [];
  const fade = (): string => (pen.globalAlpha === 1 ? '' : ` opacity="${short(pen.globalAlpha)}"`);
  const sizeOf = (): number => Number.parseFloat(pen.font);
  const pen: Pen = {
    strokeStyle: 'black',
    fillStyle: 'black',
    lineWidth: 1,
    globalAlpha: 1,
    font: '11px monospace',
    textBaseline: 'alphabetic',
    beginPath: () => {
      path = [];
    },
    moveTo: (x, y) => path.push(`M${short(x)},${short(y)}`),
    lineTo: (x, y) => path.push(`L${short(x)},${short(y)}`),
    stroke: () => {
      if (path.length === 0) return;
      elements.push(
        `<path d="${path.join('')}" fill="none" stroke="${plain(pen.strokeStyle)}" stroke-width="${pen.lineWidth}"${fade()}/>`,
      );
    },
    fillRect: (x, y, width, height) => {
      elements.push(
        `<rect x="${short(x)}" y="${short(y)}" width="${short(width)}" height="${short(height)}" fill="${plain(pen.fillStyle)}"${fade()}/>`,
      );
    },
    clearRect: () => undefined,
    fillText: (text, x, y) => {
      const middle = pen.textBaseline === 'middle' ? ' dominant-baseline="central"' : '';
      elements.push(
        `<text x="${short(x)}" y="${short(y)}" font-family="monospace" font-size="${sizeOf()}" fill="${plain(pen.fillStyle)}"${middle}>${xmlText(text)}</text>`,
      );
    },
    measureText: (text) => ({ width: text.length * LETTER * sizeOf() }),
  };
  return { pen, elements };
}
