import { trustIn, type SourceFacts, type Trust } from './trust.ts';
import type { Part } from './types.ts';

/** How to fetch a shipped part, and what independent sources say of it where there are any. */
type Shipped = { part: () => Promise<Part>; facts?: () => Promise<SourceFacts> };

/** Every part that comes with the product, in the order a list shows them. The one list of them. */
const SHIPPED: Readonly<Record<string, Shipped>> = {
  atmega328p: {
    part: async () => (await import('./parts/avr/atmega328p.ts')).atmega328p,
    facts: async () => (await import('./parts/avr/atmega328p.facts.json')).default,
  },
  atmega2560: {
    part: async () => (await import('./parts/avr/atmega2560.ts')).atmega2560,
    facts: async () => (await import('./parts/avr/atmega2560.facts.json')).default,
  },
  attiny85: {
    part: async () => (await import('./parts/avr/attiny85.ts')).attiny85,
    facts: async () => (await import('./parts/avr/attiny85.facts.json')).default,
  },
  pic16f684: {
    part: async () => (await import('./parts/pic/pic16f684.ts')).pic16f684,
    facts: async () => (await import('./parts/pic/pic16f684.facts.json')).default,
  },
  pic16f18875: {
    part: async () => (await import('./parts/pic/pic16f18875.ts')).pic16f18875,
  },
  pic18f4620: {
    part: async () => (await import('./parts/pic/pic18f4620.ts')).pic18f4620,
    facts: async () => (await import('./parts/pic/pic18f4620.facts.json')).default,
  },
  stm32f401: {
    part: async () => (await import('./parts/stm32/stm32f401.ts')).stm32f401,
    facts: async () => (await import('./parts/stm32/stm32f401.facts.json')).default,
  },
  samd21g18: {
    part: async () => (await import('./parts/sam/samd21g18.ts')).samd21g18,
    facts: async () => (await import('./parts/sam/samd21g18.facts.json')).default,
  },
  rp2040: {
    part: async () => (await import('./parts/rp2/rp2040.ts')).rp2040,
  },
  esp32: {
    part: async () => (await import('./parts/esp/esp32.ts')).esp32,
  },
  bcm2835: {
    part: async () => (await import('./parts/bcm/bcm2835.ts')).bcm2835,
    facts: async () => (await import('./parts/bcm/bcm2835.facts.json')).default,
  },
  am3358: {
    part: async () => (await import('./parts/sitara/am3358.ts')).am3358,
  },
  mk20dx256: {
    part: async () => (await import('./parts/kinetis/mk20dx256.ts')).mk20dx256,
    facts: async () => (await import('./parts/kinetis/mk20dx256.facts.json')).default,
  },
};

const fetched = new Map<string, Promise<Part>>();

function shippedAs(id: string): Shipped | undefined {
  return Object.hasOwn(SHIPPED, id) ? SHIPPED[id] : undefined;
}

/** The ids of all shipped parts, in the order a list shows them. */
export function shippedParts(): string[] {
  return Object.keys(SHIPPED);
}

/** Fetches a part when it is first asked for; undefined for an id that no shipped part has. */
export async function fetchPart(id: string): Promise<Part | undefined> {
  const shipped = shippedAs(id);
  if (!shipped) return undefined;
  const part = fetched.get(id) ?? shipped.part();
  fetched.set(id, part);
  return part;
}

/** Fetches all shipped parts. */
export async function fetchParts(): Promise<Part[]> {
  const parts = await Promise.all(shippedParts().map(fetchPart));
  return parts.filter((part) => part !== undefined);
}

/** How far the facts of independent sources confirm a part's data; a part of the user's own is measured by its id's. */
export async function fetchTrust(part: Part): Promise<Trust> {
  return trustIn(part, await shippedAs(part.id)?.facts?.());
}

/**
 * The shipped part or parts that the text of a plan file names; all parts where it names none of them, so that the fault
 * can list them.
 */
export async function partsNamedIn(text: string): Promise<Part[]> {
  const named = [...text.matchAll(/"part"\s*:\s*"([^"]{1,80})"/g)].map(([, id]) => id ?? '');
  const found = (await Promise.all(named.map(fetchPart))).filter((part) => part !== undefined);
  return found.length > 0 ? found : fetchParts();
}
