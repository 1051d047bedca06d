import {
  type Check,
  printHz,
  printNumber,
  printPercent,
  printPpm,
  printSeconds,
  printUnit,
} from '@herzschlag/core';
import { unbroken } from '../text/unbroken.ts';

/** How far a check is within its limits, or outside of them, in the words of its unit. */
export function marginText(check: Check): string {
  return unbroken(plainText(check));
}

function plainText(check: Check): string {
  const { margin, value, property, unit } = check;
  if (margin === undefined) return check.verdict === 'unknown' ? 'cannot be determined' : '';
  const away = margin >= 0 ? 'margin' : 'outside by';
  return `${away} ${sizeText(unit, property, Math.abs(margin), value)}`;
}

/** A distance in the unit of its check; of a frequency that was asked for in ppm of it, unless that is a large part. */
function sizeText(unit: Check['unit'], property: Check['property'], size: number, value = 1): string {
  switch (unit) {
    case 'fraction':
      return printPercent(size, 3);
    case 's':
      return printSeconds(size, 3);
    case 'V':
      return printUnit(size, 'V');
    case 'A':
      return printUnit(size, 'A', 3);
    case '°':
      return `${printNumber(size, 3)}°`;
    case 'count':
      return printNumber(size);
    case 'Hz': {
      const ppm = (size / value) * 1e6;
      return property === 'frequency' && ppm < 1e5 ? printPpm(ppm).replace('+', '') : printHz(size, 4);
    }
  }
}
