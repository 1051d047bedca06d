import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { cFiles } from '../../src/codegen/c-files.ts';
import { changes, variableStores, definitions, store, waitFor } from '../../src/codegen/statement.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import { bcm2835 } from '../../src/part/parts/bcm/bcm2835.ts';
import { pic18f4620 } from '../../src/part/parts/pic/pic18f4620.ts';
import { rp2040 } from '../../src/part/parts/rp2/rp2040.ts';
import { stm32f401 } from '../../src/part/parts/stm32/stm32f401.ts';
import type { Part } from '../../src/part/types.ts';
import type { Setting } from '../../src/timer/setting.ts';

/** A line with its definitions of bits and fields put in their places. */
function defined(part: Part, line: string): string {
  return definitions(part, line).reduce((text, one) => {
    const [, name = '', argument, body = ''] = /^#define (\w+)(\(n\))? (.*)$/.exec(one) ?? [];
    if (body.includes('volatile')) return text;
    const uses = argument === undefined ? `\\b${name}\\b` : `\\b${name}\\(((?:[^()]|\\([^()]*\\))*)\\)`;
    return text.replaceAll(new RegExp(uses, 'g'), (_, given: string) => body.replace(/\bn\b/, `(${given})`));
  }, line);
}

/** Carries out a masked store, or a plain one, as a C compiler would. */
function carryOut(part: Part, line: string, before: number, compare = 0): number {
  const body = defined(part, line)
    .replace(/\/\*.*?\*\//g, '')
    .replace(/^\w+ = /, '')
    .replace(/;\s*$/, '')
    .replace(/\b[A-Z]\w*_\w+\b|\bCCP\w+\b/g, 'before');
  const script = body.replace(/\(uint\d+_t\)/g, '').replace(/(0x[0-9A-F]+|\d+)u/g, '$1');
  return runInNewContext(`(${script}) >>> 0`, { before, compare }) as number;
}

it('leaves the bits alone that no signal decides', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 - 1 }), fc.integer({ min: 0, max: 15 }), (before, code) => {
      const [line = ''] = changes(stm32f401, [{ register: 'GPIOB_AFRL', field: 'AFR6', value: code }]);
      const after = carryOut(stm32f401, line, before);
      expect((after >>> 24) & 15).toBe(code);
      expect(after & 0xf0ffffff).toBe(before & 0xf0ffffff);
    }),
  );
});

it('puts a compare value where it belongs, in one place or in two', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 1023 }), fc.integer({ min: 0, max: 255 }), (compare, before) => {
      const [duty = '', high = '', low = ''] = variableStores(
        pic18f4620,
        pic18f4620.timers[0]!.channels[0]!.compare,
        'compare',
      );
      expect(carryOut(pic18f4620, duty, 0, compare)).toBe(compare >> 2);
      const both = carryOut(pic18f4620, low, carryOut(pic18f4620, high, before, compare), compare);
      expect((both >> 4) & 3).toBe(compare & 3);
      expect(both & 0xcf).toBe(before & 0xcf);
    }),
  );
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 65535 }),
      fc.integer({ min: 0, max: 2 ** 31 - 1 }),
      (compare, before) => {
        const [line = ''] = variableStores(rp2040, { 'CH2_CC.B': { of: 'compare' } }, 'compare');
        expect(carryOut(rp2040, line, before, compare)).toBe(((before & 0xffff) | (compare << 16)) >>> 0);
      },
    ),
  );
});

it('speaks in the names of the headers where there are some, and by address where there are none', () => {
  const on = [
    { register: 'TCCR1B', field: 'WGM12', value: 1 },
    { register: 'TCCR1B', field: 'CS10', value: 1 },
    { register: 'TCCR1B', field: 'CS11', value: 0 },
  ];
  expect(store(atmega328p, 'TCCR1B', on)).toEqual(['TCCR1B = (1 << WGM12) | (1 << CS10);']);
  expect(changes(atmega328p, on)).toEqual([
    'TCCR1B &= (uint8_t)~((1 << CS11));',
    'TCCR1B |= (1 << WGM12) | (1 << CS10);',
  ]);
  expect(definitions(atmega328p, 'TCCR1B = 1;')).toEqual([]);
  expect(definitions(stm32f401, 'TIM4_ARR = 1; TIM4_ARR_X = 2;')).toEqual([
    '#define TIM4_ARR (*(volatile uint16_t *)0x4000082Cu)',
  ]);
});

it('starts and awaits what is not there after reset, also where it goes by address', () => {
  const code = (own: typeof rp2040, setting: Setting): string =>
    cFiles(own, clockPath(own, own.defaultClock), 'x', [{ name: 'x', sentence: 'x', setting }])[0]?.text ??
    '';
  const drive = 'pwm' as const;
  const slice = code(rp2040, {
    drive,
    timer: 'PWM1',
    mode: 'edge',
    channel: 'A',
    pin: 'GPIO2',
    prescaler: 1,
    top: 9,
    compare: 3,
  });
  expect(slice.indexOf('RESETS_RESET = ')).toBeLessThan(
    slice.indexOf('while (!(RESETS_RESET_DONE & RESETS_RESET_DONE_PWM_BIT)) { }'),
  );
  expect(slice.indexOf('while')).toBeLessThan(slice.indexOf('CH1_CSR = '));
  const channel = code(bcm2835, {
    drive,
    timer: 'PWM1',
    mode: 'mark-space',
    channel: 'CH1',
    pin: 'GPIO18',
    prescaler: 96,
    top: 3999,
    compare: 300,
  });
  expect(slice).toContain('#define RESETS_RESET_DONE_PWM_BIT 0x4000u');
  expect(channel).toContain(
    'CM_PWMCTL = (CM_PWMCTL & ~(CM_PWMCTL_PASSWD_FIELD(255u) | CM_PWMCTL_SRC_FIELD(15u)))\n            | CM_PWMCTL_PASSWD_FIELD(90u) | CM_PWMCTL_SRC_FIELD(1u);',
  );
  expect(channel).toContain('#define CM_PWMCTL_PASSWD_FIELD(n) ((n) << 24)');
  // The clock of the PWM stands before its source, its filter or its divider changes, and runs when all is set.
  const steps = [
    'while (CM_PWMCTL & CM_PWMCTL_BUSY_BIT)',
    'CM_PWMCTL_SRC_FIELD(1u);',
    'CM_PWMCTL_MASH_BIT; /* not running yet */',
    'CM_PWMDIV =',
    'CM_PWMCTL_MASH_BIT\n            | CM_PWMCTL_ENAB_BIT;',
    'while (!(CM_PWMCTL',
  ];
  const places = steps.map((step) => channel.indexOf(step));
  expect(places).toEqual([...places].sort((one, other) => one - other));
  expect(places).not.toContain(-1);
  expect(waitFor(atmega328p, 'TIFR1.TOV1')).toEqual(['while (!(TIFR1 & (1 << TOV1))) { }']);
});
