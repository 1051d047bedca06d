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

function loadText(unit: Check['unit'], size: number): string {
  if (unit === 's') return printSeconds(size, 3);
  if (unit === 'Hz') return printHz(size, 4);
  return unit === 'V' ? printUnit(size, 'V', 3) : printNumber(size, 6);
}

function plainText(check: Check): string {
  const { margin, value, property } = check;
  if (margin === undefined) return check.verdict === 'unknown' ? 'cannot be told' : '';
  const size = Math.abs(margin);
  const away = margin >= 0 ? 'margin' : 'outside by';
  if (check.unit === 'fraction') return `${away} ${printPercent(size, 3)}`;
  if (check.unit === 'A') return `${away} ${printUnit(size, 'A', 3)}`;
  if (property === 'load') return `${away} ${loadText(check.unit, size)}`;
  if (property === 'width' || property === 'jitter' || property === 'first edge' || property === 'dead time')
    return `${away} ${printSeconds(size, 3)}`;
  if (property === 'phase') return `${away} ${printNumber(size, 3)}°`;
  if (property === 'voltage') return `${away} ${printUnit(size, 'V')}`;
  if (property === 'range') return `${away} ${printHz(size, 4)}`;
  if (property === 'steps' || property === 'glitches' || property === 'pulses')
    return `${away} ${printNumber(size)}`;
  const share = (size / (value ?? 1)) * 1e6;
  return share < 1e5 ? `${away} ${printPpm(share).replace('+', '')}` : `${away} ${printHz(size, 4)}`;
}
