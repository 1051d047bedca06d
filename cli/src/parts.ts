import { featuresOf, fetchParts, timerPins } from '@herzschlag/core';
import { json, table } from './table.ts';

/** How far the register data was held against an independent source. */
function trust({ verified, unverified }: { verified: boolean; unverified: readonly string[] }): string {
  if (verified) return 'yes';
  return unverified.includes('*') ? 'no' : 'in part';
}

/** The parts with their timers and the pins a timer can drive. */
export async function partsCommand(options: { table?: boolean }): Promise<string> {
  const parts = (await fetchParts()).map((part) => ({
    id: part.id,
    name: part.name,
    timers: part.timers.map((timer) => timer.id),
    pins: part.pins.map((pin) => pin.id),
    timerPins: timerPins(part),
    features: featuresOf(part),
    verified: part.verified,
    unverified: part.unverified ?? [],
    leftOut: part.leftOut ?? [],
    source: part.source,
  }));
  if (!options.table) return json(parts);
  return table(
    ['id', 'name', 'timers', 'verified', 'features'],
    parts.map((part) => [part.id, part.name, part.timers.length, trust(part), part.features.join(', ')]),
  );
}
