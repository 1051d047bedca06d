import type { Part } from './types.ts';

/** How to fetch each part that comes with the product, in the order a list shows them. */
const LOADERS: Record<string, () => Promise<Part>> = {
  atmega328p: async () => (await import('./parts/avr/atmega328p.ts')).atmega328p,
  atmega2560: async () => (await import('./parts/avr/atmega2560.ts')).atmega2560,
  attiny85: async () => (await import('./parts/avr/attiny85.ts')).attiny85,
  pic16f684: async () => (await import('./parts/pic/pic16f684.ts')).pic16f684,
  pic16f18875: async () => (await import('./parts/pic/pic16f18875.ts')).pic16f18875,
  pic18f4620: async () => (await import('./parts/pic/pic18f4620.ts')).pic18f4620,
  stm32f401: async () => (await import('./parts/stm32/stm32f401.ts')).stm32f401,
  samd21g18: async () => (await import('./parts/sam/samd21g18.ts')).samd21g18,
  rp2040: async () => (await import('./parts/rp2/rp2040.ts')).rp2040,
  esp32: async () => (await import('./parts/esp/esp32.ts')).esp32,
  bcm2835: async () => (await import('./parts/bcm/bcm2835.ts')).bcm2835,
  am3358: async () => (await import('./parts/sitara/am3358.ts')).am3358,
  mk20dx256: async () => (await import('./parts/kinetis/mk20dx256.ts')).mk20dx256,
};

const fetched = new Map<string, Promise<Part>>();

/** Fetches a part when it is first asked for; undefined for an id that no shipped part has. */
export async function fetchPart(id: string): Promise<Part | undefined> {
  const loader = Object.hasOwn(LOADERS, id) ? LOADERS[id] : undefined;
  if (!loader) return undefined;
  const part = fetched.get(id) ?? loader();
  fetched.set(id, part);
  return part;
}

/** Fetches all shipped parts. */
export async function fetchParts(): Promise<Part[]> {
  const parts = await Promise.all(Object.keys(LOADERS).map(fetchPart));
  return parts.filter((part) => part !== undefined);
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
