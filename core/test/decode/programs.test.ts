import { clockPath } from '../../src/clock/path.ts';
import { decodeText, type Decoded } from '../../src/decode/decode.ts';
import { decodedSignals } from '../../src/decode/decoded-signals.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { planCode } from '../../src/evaluate/code.ts';
import type { PlanSignal } from '../../src/plan/plan.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';
import { MORE_PROGRAMS } from './program-texts-more.ts';
import { PROGRAMS, type Pasted } from './program-texts.ts';

function read({ part: id, clock, text }: Pick<Pasted, 'part' | 'clock' | 'text'>): Decoded {
  const part = shipped(id);
  const found = decodeText(part, clockPath(part, { ...part.defaultClock, ...clock }), text);
  if (!found.ok) throw new Error(found.fault.sentence);
  return found.value;
}

const effectsOf = ({ timers }: Decoded) => timers.flatMap(({ effects }) => effects);

it.each([...PROGRAMS, ...MORE_PROGRAMS].map((one) => [one.name, one] as const))('reads %s', (_, pasted) => {
  const decoded = read(pasted);
  const found = effectsOf(decoded).map(({ setting, outcome }) => ({
    drive: setting.drive,
    pin: setting.pin,
    hz: outcome.frequency.valueOf(),
    duty: outcome.duty.valueOf(),
  }));
  for (const [drive, pin, hz, duty] of pasted.does) {
    const own = found.find((one) => one.drive === drive && one.pin === pin);
    expect(own?.hz).toBeCloseTo(hz, 6);
    if (duty !== undefined) expect(own?.duty).toBeCloseTo(duty, 9);
  }
  // A channel that is always on is there at 0 %, too.
  expect(found.filter(({ drive, duty }) => drive === 'interrupt' || duty > 0)).toHaveLength(
    pasted.does.length,
  );
  expect(decoded.reading.skipped).toHaveLength(pasted.skips ?? 0);
});

describe('what is left out is said', () => {
  it('with the lines that were read, those understood, and the places of the others', () => {
    const text =
      'TCCR1A = 0x82;\nTCCR1B = 0x19;\nICR1 = width_of(x);\nOCR1A = 99;\nFOO1 = 3;\nlcd.print(TOP);';
    const { reading, slips } = read({ part: 'atmega328p', text });
    expect(reading).toEqual({
      lines: 6,
      understood: 3,
      skipped: [
        { line: 3, text: 'ICR1 = width_of(x)', why: '“x” is not a bit or register of this part.' },
        { line: 5, text: 'FOO1 = 3', why: 'ATmega328P has no register FOO1.' },
      ],
    });
    expect(slips.find(({ id }) => id === 'left-out')?.text).toBe(
      '6 lines were read and 3 understood; 2 that may write a register were not. Line 3: “x” is not a bit or register of this part. Line 5: ATmega328P has no register FOO1.',
    );
  });

  it('with what stands in a loop or under a condition', () => {
    const text = 'int main(void) { OCR1A = 5; while (1) { OCR1A = 7; if (button) OCR1B = 3; } }';
    const { slips } = read({ part: 'atmega328p', text });
    expect(slips.find(({ id }) => id === 'taken-once')?.text).toBe(
      'Line 1 stands in a loop: it is taken once.',
    );
  });

  it('keeps what was set before a condition, and takes what is set under it alone', () => {
    const text = `int main(void) { DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 639; OCR1A = 255;
if (fast) OCR2A = 9;
while (1) { if (button()) OCR1A = 400; } }`;
    const decoded = read({ part: 'atmega328p', text });
    expect(effectsOf(decoded).map(({ outcome }) => outcome.duty.valueOf())).toEqual([0.4]);
    expect(decoded.slips.map(({ id, text: said }) => [id, said.slice(0, 30)])).toEqual([
      ['set-later', 'From line 3 on OCR1A gets valu'],
      ['taken-once', 'Line 2 stands under a conditio'],
    ]);
  });

  it('decides conditions that the text itself decides', () => {
    const text = '#define FAST 0\nvoid init(void) { if (FAST) { ICR1 = 99; } else { ICR1 = 999; } }';
    const { slips } = read({ part: 'atmega328p', text: `${text}\nTCCR1A = 0x82; TCCR1B = 0x19; OCR1A = 1;` });
    expect(slips.map(({ id }) => id)).not.toContain('taken-once');
    const decoded = read({ part: 'atmega328p', text: `${text}\nTCCR1A = 0x82; TCCR1B = 0x19; OCR1A = 499;` });
    expect(effectsOf(decoded)[0]?.outcome.frequency.valueOf()).toBe(16000);
  });
});

describe('a program that goes round in a circle ends', () => {
  it.each([
    'void a(void) { b(); } void b(void) { a(); OCR1A = 3; } int main(void) { a(); }',
    '#define A B\n#define B A\nOCR1A = A;',
    '#define F(x) F(x)\nOCR1A = F(1);',
  ])('%s', (text) => {
    const part = shipped('atmega328p');
    const found = decodeText(part, clockPath(part, part.defaultClock), text);
    expect(found.ok ? found.value.timers.length : found.fault.sentence).toBeTruthy();
  });
});

describe('whole files of the product', () => {
  const signals: PlanSignal[] = [
    {
      id: 'pump',
      name: 'Pump',
      kind: 'pwm',
      target: { frequencyHz: 1000, duty: 0.25, frequencyTolerancePpm: 150000 },
    },
    { id: 'beat', name: 'Beat', kind: 'tick', target: { frequencyHz: 100, frequencyTolerancePpm: 150000 } },
  ];

  it.each(
    PARTS.flatMap((part) => (['own', 'device'] as const).map((style) => [part.id, style, part] as const)),
  )('decode to the plan they came from: %s, registers by %s names', (_, style, part) => {
    if (style === 'device' && !part.code.device) return;
    const plan = planOn(part, ...signals);
    const evaluation = evaluatePlan(plan, part);
    expect(evaluation.failures).toEqual([]);
    const [source] = planCode(plan, part, { registers: style }).files;
    const found = decodeText(part, clockPath(part, plan.clock), source?.text ?? '');
    if (!found.ok) throw new Error(found.fault.sentence);
    expect(found.value.reading.skipped).toEqual([]);
    const effects = effectsOf(found.value);
    let compared = 0;
    for (const { outcome } of evaluation.signals) {
      const setting = outcome?.setting;
      // What the program itself makes is not in the registers.
      if (!setting || !('timer' in setting) || !['pwm', 'toggle', 'interrupt'].includes(setting.drive))
        continue;
      const own = effects.find(
        (one) =>
          one.setting.drive === setting.drive &&
          'timer' in one.setting &&
          one.setting.timer === setting.timer,
      );
      expect(own?.setting).toMatchObject({
        mode: setting.mode,
        prescaler: setting.prescaler,
        top: setting.top,
      });
      compared += 1;
    }
    expect(compared).toBeGreaterThan(0);
  });
});

describe('a plan of what was read', () => {
  it('has a signal for each pin and each tick, all of which pass', () => {
    const part = shipped('atmega328p');
    const text = `TCCR1A = 0xA2; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 3999; OCR1B = 7999; DDRB = 6;
TCCR0A = 2; TCCR0B = 3; OCR0A = 249; TIMSK0 = 2; sei();`;
    const plan = planOn(part, {
      id: 'lamp',
      name: 'Lamp',
      pin: 'PB2',
      kind: 'blink',
      target: { frequencyHz: 1000 },
    });
    const signals = decodedSignals(read({ part: 'atmega328p', text }), plan, part);
    expect(signals).toEqual([
      {
        id: 'tick-of-timer-0',
        name: 'Tick of Timer 0',
        kind: 'tick',
        target: { frequencyHz: 1000 },
        setting: expect.objectContaining({ timer: 'TIMER0', top: 249 }) as object,
      },
      {
        id: 'pb1',
        name: 'PB1',
        pin: 'PB1',
        kind: 'pwm',
        target: { frequencyHz: 1000, duty: 0.25 },
        setting: expect.objectContaining({ timer: 'TIMER1', compare: 3999 }) as object,
      },
    ]);
    expect(evaluatePlan(planOn(part, ...signals), part).failures).toEqual([]);
  });

  it('takes what a handler makes of a tick without its setting, and no pin that stays as it is', () => {
    const part = shipped('atmega328p');
    const text = `ISR(TIMER1_OVF_vect) { TCNT1 = 63036; }
void setup(void) { TCCR1B = 3; TIMSK1 = 1; sei(); TCCR2A = 0x83; TCCR2B = 1; OCR2A = 255; DDRB = 8; }`;
    const signals = decodedSignals(read({ part: 'atmega328p', text }), planOn(part), part);
    expect(signals).toEqual([
      { id: 'tick-of-timer-1', name: 'Tick of Timer 1', kind: 'tick', target: { frequencyHz: 100 } },
    ]);
  });
});
