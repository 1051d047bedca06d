import { parseQuantity } from '../quantity/parse.ts';
import { printHz, printNumber, printPercent, printSeconds, printUnit } from '../quantity/print.ts';
import { quoted } from '../quantity/words.ts';
import { failed, succeeded, type Result } from '../result/result.ts';
import type { NumberField } from './model.ts';

const UNITS: Partial<Record<NumberField['dimension'], string>> = {
  volts: 'V',
  amps: 'A',
  ohms: 'Ω',
  farads: 'F',
  henries: 'H',
};

/** The value of a field as the user would type it. */
export function fieldText({ dimension }: Pick<NumberField, 'dimension'>, value: number): string {
  const unit = UNITS[dimension];
  if (unit !== undefined) return printUnit(value, unit, 6);
  if (dimension === 'time') return printSeconds(value);
  if (dimension === 'frequency') return printHz(value);
  if (dimension === 'duty') return printPercent(value);
  return dimension === 'degrees' ? `${printNumber(value)}°` : printNumber(value);
}

/** Reads the value of a field; nothing at all where the field is optional. Fails in a sentence. */
export function parseField(field: NumberField, text: string): Result<number | undefined> {
  if (text.trim() === '' && field.optional) return succeeded(undefined);
  const read = parseQuantity(text, field.dimension);
  if (!read.ok) return read;
  const value = read.value.value.valueOf();
  const low = field.above ?? field.min ?? 0;
  const tooLow = field.above === undefined ? value < low : value <= low;
  if (tooLow)
    return failed(
      `The ${field.label} must be ${field.above === undefined ? 'at least' : 'above'} ${fieldText(field, low)}; ${quoted(text)} is not.`,
    );
  if (value > field.max)
    return failed(
      `The ${field.label} must be ${fieldText(field, field.max)} or less; ${quoted(text)} is more.`,
    );
  return succeeded(value);
}
