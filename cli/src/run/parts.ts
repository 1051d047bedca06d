import { featuresOf, fetchParts, fetchTrust, timerPins } from '@herzschlag/core';
import { json, table } from '../table.ts';

/** How far independent sources confirm the register data. */
function trustWord({ verified, confirmed }: { verified: boolean; confirmed: number }): string {
  if (verified) return 'yes';
  return confirmed === 0 ? 'no' : 'in part';
}

/** The parts with their timers and the pins a timer can drive. */
export async function partsCommand(options: { table?: boolean }): Promise<string> {
  const fetched = await fetchParts();
  const trusted = await Promise.all(fetched.map(async (part) => ({ part, trust: await fetchTrust(part) })));
  const parts = trusted.map(({ part, trust }) => ({
    id: part.id,
    name: part.name,
    timers: part.timers.map((timer) => timer.id),
    pins: part.pins.map((pin) => pin.id),
    timerPins: timerPins(part),
    features: featuresOf(part),
    verified: trust.verified,
    items: trust.items,
    confirmed: trust.confirmed,
    unverified: trust.unverified,
    leftOut: part.leftOut ?? [],
    source: part.source,
  }));
  if (!options.table) return json(parts);
  return table(
    ['id', 'name', 'timers', 'verified', 'features'],
    parts.map((part) => [part.id, part.name, part.timers.length, trustWord(part), part.features.join(', ')]),
  );
}
