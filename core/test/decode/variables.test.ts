import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { clockPath } from '../../src/clock/path.ts';
import { decodeText } from '../../src/decode/decode.ts';
import { readStores } from '../../src/decode/statements.ts';
import { planCode } from '../../src/evaluate/code.ts';
import { readPlan } from '../../src/plan/check-plan.ts';
import { PARTS, shipped } from '../helpers/parts.ts';

const arm = shipped('stm32f401');

function read(text: string): { values: Record<string, number>; later: string[] } {
  const { values, later } = readStores(arm, text);
  return {
    values: Object.fromEntries(values),
    later: later.map(({ register, line }) => `${register} in ${line}`),
  };
}

describe('variables of code that is read', () => {
  it.each([
    ['uint16_t top = 1249; TIM3_ARR = top;', 1249],
    ['const uint32_t hz = 84000000u, step = 84u;\nTIM3_ARR = (uint16_t)(hz / step / 1000 - 1);', 999],
    ['static const unsigned int ticks = 0x100;\nstatic void set(void) {\n  TIM3_ARR = ticks - 1;\n}', 255],
    // It is read, not changed: == is no assignment.
    ['int n = 3; if (n == 3) { }\nTIM3_ARR = n;', 3],
  ])('%s', (text, top) => {
    expect(read(text)).toEqual({ values: { TIM3_ARR: top }, later: [] });
  });

  it.each([
    'void lens_set(uint16_t top) { TIM3_ARR = top; }',
    'uint16_t top = 5; top += 2; TIM3_ARR = top;',
    'uint16_t top = 5; read_top(&top); TIM3_ARR = top;',
    'uint16_t top = 5; top++; TIM3_ARR = top;',
    'uint16_t top = sampled(); TIM3_ARR = top;',
    'uint16_t top; TIM3_ARR = (top & 0xFF) + 1;',
  ])('%s: only the running program knows', (text) => {
    expect(read(`TIM3_ARR = 99;\n${text}`)).toEqual({ values: { TIM3_ARR: 99 }, later: ['TIM3_ARR in 2'] });
  });

  it('a register of the processor that keeps interrupts out decides nothing', () => {
    const avr = shipped('atmega328p');
    const text = 'OCR1A = 99;\nuint8_t status = SREG; cli(); OCR1B = 5; SREG = status;';
    expect(Object.fromEntries(readStores(avr, text).values)).toEqual({ OCR1A: 99, OCR1B: 5 });
    expect(readStores(avr, 'SREGG = 1;').skipped[0]?.why).toContain('has no register SREGG');
  });

  it('a name that nothing declares is left out, with the reason', () => {
    expect(readStores(arm, 'TIM3_ARR = topp;').skipped).toEqual([
      { line: 1, text: 'TIM3_ARR = topp', why: '“topp” is not a bit or register of this part.' },
    ]);
  });

  it('where nothing else is stored, says why there is nothing to tell', () => {
    const found = decodeText(
      arm,
      clockPath(arm, arm.defaultClock),
      'void set(uint16_t top) { TIM3_ARR = top; }',
    );
    expect(found).toMatchObject({
      ok: false,
      fault: { sentence: 'Line 1: TIM3_ARR gets a value that only the running program knows.' },
    });
  });

  it('says what it left out', () => {
    const text = 'TIM3_PSC = 83;\nTIM3_ARR = 999;\nTIM3_CR1 = 1;\nvoid set(uint16_t top) { TIM3_ARR = top; }';
    const found = decodeText(arm, clockPath(arm, arm.defaultClock), text);
    if (!found.ok) throw new Error(found.fault.sentence);
    expect(found.value.slips).toEqual([
      expect.objectContaining({
        id: 'set-later',
        warns: false,
        text: expect.stringContaining('From line 4 on TIM3_ARR gets values') as string,
      }),
    ]);
  });
});

const EXAMPLES = join(__dirname, '../../../examples');

it.each(readdirSync(EXAMPLES).filter((name) => name.endsWith('.plan.json')))(
  'the code of %s is read, calls that send and step through sequences included',
  (name) => {
    const plan = readPlan(readFileSync(join(EXAMPLES, name), 'utf8'), PARTS);
    if (!plan.ok) throw new Error(plan.fault.sentence);
    const { part } = plan.value;
    const together = {
      ...plan.value.plan,
      signals: plan.value.plan.signals.slice(0, name.startsWith('harbour') ? 1 : 4),
    };
    const [source] = planCode(together, part, { failing: true }).files;
    const found = decodeText(part, clockPath(part, plan.value.plan.clock), source?.text ?? '');
    expect(found).toMatchObject({ ok: true });
  },
);
