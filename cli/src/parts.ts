import { featuresOf } from '@herzschlag/core/part/features.ts';
import { timerPins } from '@herzschlag/core/part/find.ts';
import { PARTS } from '@herzschlag/core/part/catalogue.ts';
import { json, table } from './table.ts';

/** The parts with their timers and the pins a timer can drive. */
export function partsCommand(options: { table?: boolean }): string {
  const parts = PARTS.map((part) => ({
    id: part.id,
    name: part.name,
    timers: part.timers.map((timer) => timer.id),
    pins: part.pins.map((pin) => pin.id),
    timerPins: timerPins(part),
    features: featuresOf(part),
    verified: part.verified,
    source: part.source,
  }));
  if (!options.table) return json(parts);
  return table(
    ['id', 'name', 'timers', 'verified', 'features'],
    parts.map((part) => [
      part.id,
      part.name,
      part.timers.length,
      part.verified ? 'yes' : 'in part',
      part.features.join(', '),
    ]),
  );
}
