import { clockSettingsFor } from '../../src/clock/search.ts';
import { partById } from '../helpers/parts.ts';
import { exactText } from '../../src/quantity/exact.ts';

function search(id: string, sourceHz: number, node: string, wantedHz: number, source = 'crystal') {
  const part = partById(id);
  if (!part) throw new Error(`no ${id}`);
  const found = clockSettingsFor(part, { source, sourceHz }, node, wantedHz, 30);
  return found.map(({ setting, hz, errorPpm }) => ({
    settings: setting.settings,
    hz: exactText(hz),
    errorPpm,
  }));
}

it('STM32F401: 84 MHz from an 8 MHz crystal, what stands already first', () => {
  const [first, ...others] = search('stm32f401', 8e6, 'apb1t', 84e6);
  expect(first).toMatchObject({
    hz: '84000000',
    errorPpm: 0,
    settings: { pllM: 8, pllN: 336, pllP: 4, apb1: 2, sys: 'pllP' },
  });
  expect(others.length).toBeGreaterThan(3);
});

it('STM32F401: 80 MHz from 16 MHz, and every find keeps VCO and buses within their limits', () => {
  const found = search('stm32f401', 16e6, 'apb2t', 80e6);
  expect(found[0]).toMatchObject({ hz: '80000000', errorPpm: 0 });
  for (const { settings } of found) {
    const { pllM, pllN } = settings as { pllM: number; pllN: number };
    expect((16e6 / pllM) * pllN).toBeLessThanOrEqual(432e6);
    expect((16e6 / pllM) * pllN).toBeGreaterThanOrEqual(192e6);
  }
});

it('RP2040: agrees with plain loops over all its dividers', () => {
  const reachable = new Set<number>();
  for (let n = 16; n <= 320; n += 1) {
    const vco = 12e6 * n;
    if (vco < 750e6 || vco > 1600e6) continue;
    for (let one = 1; one <= 7; one += 1)
      for (let two = 1; two <= 7; two += 1) if (vco / one / two <= 133e6) reachable.add(vco / one / two);
  }
  for (const wanted of [100e6, 123.456e6, 48e6, 17.1e6]) {
    const min = Math.min(...[...reachable].map((hz) => Math.abs(hz / wanted - 1)));
    const [first] = search('rp2040', 12e6, 'sys', wanted);
    expect(Math.abs(first?.errorPpm ?? Infinity) / 1e6).toBeCloseTo(min, 11);
  }
});

it('an 8-bit part divides its clock and no more', () => {
  expect(search('atmega328p', 16e6, 'io', 1e6)[0]).toMatchObject({
    hz: '1000000',
    errorPpm: 0,
    settings: { io: 16 },
  });
  expect(search('atmega328p', 16e6, 'io', 3e6)[0]).toMatchObject({ hz: '4000000' });
});
