import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { planCode } from '../../src/evaluate/code.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { registerOf } from '../../src/part/find.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import type { BitLoopSetting } from '../../src/timer/setting.ts';
import { edgesOf } from '../helpers/avr-play.ts';
import { runOnChip } from '../helpers/chip.ts';
import { bitEdges, bitLoops } from '../helpers/bit-edges.ts';
import { shipped } from '../helpers/parts.ts';
import { playBits } from '../helpers/pic-play.ts';
import { assembled } from '../helpers/pic.ts';

/** The usual string: 1.25 us a bit, high for 0.4 or 0.8 us, each within 0.15 us. */
const FAST = { bitS: 0.00000125, zeroS: 0.0000004, oneS: 0.0000008, leds: 20 };

/** A slower one, of half the rate. */
const SLOW = { bitS: 0.0000025, zeroS: 0.0000005, oneS: 0.0000012, leds: 8 };

function planFor(id: string, hz: number, pin: string, target: typeof FAST, setting?: BitLoopSetting): Plan {
  const rail: PlanSignal = {
    id: 'rail',
    name: 'Rail',
    kind: 'string',
    pin,
    target,
    ...(setting ? { setting } : {}),
  };
  return {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Sleigh',
    part: id,
    clock: { source: 'external', sourceHz: hz },
    signals: [rail],
  };
}

function chosen(plan: Plan): BitLoopSetting {
  const setting = evaluatePlan(plan, shipped(plan.part)).signals[0]?.outcome?.setting;
  if (setting?.drive !== 'bit-loop') throw new Error('no loop was chosen');
  return setting;
}

/** A place in the memory of each part where bytes can be. */
const BYTES_AT: Readonly<Record<string, number>> = {
  pic16f684: 0x40,
  pic16f18875: 0x2010,
  pic18f4620: 0x1fe,
};

/** The edges of the line as the assembled loop makes them. */
function played(part: Part, plan: Plan, bytes: readonly number[]): number[] {
  const { family } = part.code.assembly ?? {};
  const [signal] = plan.signals;
  const pin = part.pins.find(({ id }) => id === signal?.pin);
  const [key = ''] = Object.keys(pin?.software?.high ?? {});
  const [name = ''] = key.split('.');
  if (!family || !pin) throw new Error('no assembler');
  const file = planCode(plan, part, { failing: true }).files.find((one) => one.name === 'sleigh_send.asm');
  const linked = assembled(file?.text ?? '');
  const at = BYTES_AT[part.id] ?? 0;
  const memory = new Map(bytes.map((byte, index) => [at + index, byte]));
  const put = (label: string, value: number): void => {
    const place = linked.data.get(label) ?? NaN;
    memory.set(place, value & 0xff).set(place + 1, value >> 8);
  };
  put('_rail_from', at);
  put('_rail_left', bytes.length - 1);
  const port = { address: registerOf(part, name).address, bit: pin.bit };
  return edgesOf(playBits(family, linked, '_rail_bits', memory, port));
}

const BYTES = [0xa5, 0x00, 0xff, 0x13];

// Instruction cycles of 125 ns, 100 ns and 200 ns: 1.25 us are ten, twelve and a half, and six and a quarter, too few for the loop.
it.each([
  ['pic16f18875', 32e6, 'RB0', FAST, 10, 6, 3],
  ['pic18f4620', 40e6, 'RB3', FAST, 12, 8, 4],
  ['pic16f684', 20e6, 'RC0', SLOW, 12, 6, 2],
] as const)('%s at %d Hz on %s: every edge is in its cycle', (id, hz, pin, target, top, compare, zero) => {
  const part = shipped(id);
  const plan = planFor(id, hz, pin, target);
  expect(evaluatePlan(plan, part).failures).toEqual([]);
  expect(chosen(plan)).toEqual({ drive: 'bit-loop', pin, top, compare, zero });
  expect(played(part, plan, BYTES)).toEqual(bitEdges(BYTES, chosen(plan)));
  expect(played(part, plan, [0x80])).toEqual(bitEdges([0x80], chosen(plan)));
  // More bytes than one half of the count holds.
  const many = Array.from({ length: 300 }, (_, at) => (at * 37) % 256);
  if (id !== 'pic16f684') expect(played(part, plan, many)).toEqual(bitEdges(many, chosen(plan)));
});

it('is left to slower strings where a bit has too few cycles', () => {
  const part = shipped('pic16f684');
  const [signal] = evaluatePlan(planFor(part.id, 20e6, 'RC0', FAST), part).signals;
  expect(signal?.outcome?.setting.drive).not.toBe('bit-loop');
});

it.each(['pic16f684', 'pic16f18875', 'pic18f4620'])(
  'every setting that is allowed on %s is a loop whose edges are in their cycles',
  (id) => {
    const part = shipped(id);
    const pin = id === 'pic16f684' ? 'RC3' : 'RC6';
    const settings = bitLoops(part, pin);
    fc.assert(
      fc.property(settings, (setting) => {
        const plan = planFor(id, 16e6, pin, FAST, setting);
        expect(played(part, plan, [0x5a, 0xc3])).toEqual(bitEdges([0x5a, 0xc3], setting));
      }),
      { numRuns: 12, seed: 271_128 },
    );
  },
);

it('gets the first byte, how many come after it, and interrupts kept out, from the C file', () => {
  const part = shipped('pic16f18875');
  const plan = planFor(part.id, 32e6, 'RB0', FAST);
  const { files } = planCode(plan, part);
  expect(files.map(({ name }) => name)).toEqual([
    'sleigh.c',
    'sleigh.h',
    'sleigh_send.asm',
    'sleigh_init.asm',
  ]);
  const body = [
    'static const uint8_t bytes[3] = {1, 2, 3};',
    'INTCON.value = 0xC0u;',
    'sleigh_init();',
    'mark("send");',
    'rail_send(bytes, 0);',
    'mark("nothing");',
    'rail_send(bytes, 3);',
    'tell("left", rail_left);',
  ];
  const steps = runOnChip([{ part, files, body }])[0] ?? [];
  const from = steps.findIndex((step) => step.do === 'mark' && step.name === 'nothing');
  const after = steps.slice(from + 1);
  const written = after.flatMap((step) => (step.do === 'write' ? [`${step.register} ${step.value}`] : []));
  // GIE goes, PEIE stays; then both are there again.
  expect(written).toEqual(['INTCON 64', 'INTCON 192']);
  expect(after).toContainEqual({ do: 'mark', name: 'left=2' });
});
