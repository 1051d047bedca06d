import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { decodeText, type Decoded, type Wanted } from '../../src/decode/decode.ts';
import { CodeFault, valueOf } from '../../src/decode/expression.ts';
import { readStores } from '../../src/decode/statements.ts';
import { clockPath, type ClockSetting } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import { atmega328p } from '../../src/part/parts/avr/atmega328p.ts';
import type { Part } from '../../src/part/types.ts';
import { exactText } from '../../src/quantity/exact.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { settingRegisters } from '../../src/timer/encode.ts';
import { isOutput } from '../../src/timer/drives/index.ts';

function part(id: string): Part {
  const found = partById(id);
  if (!found) throw new Error(`no ${id}`);
  return found;
}

function read(id: string, text: string, wanted?: Wanted, clock: Partial<ClockSetting> = {}): Decoded {
  const own = part(id);
  const found = decodeText(own, clockPath(own, { ...own.defaultClock, ...clock }), text, wanted);
  if (!found.ok) throw new Error(found.fault.sentence);
  return found.value;
}

describe('expressions', () => {
  const bits = new Map([
    ['WGM12', 3],
    ['CS11', 1],
    ['CS10', 0],
  ]);
  const names = (name: string): number | undefined => bits.get(name);

  it.each<[string, bigint]>([
    ['0x0B', 11n],
    ['0b0000_1011', 11n],
    ['249', 249n],
    ['(1 << WGM12) | (1 << CS11) | (1 << CS10)', 11n],
    ['_BV(WGM12) | _BV(CS11)', 10n],
    ['(uint16_t)(16000000UL / 64 / 1000 - 1)', 249n],
    ['1 << 2 | 3 & 6', 6n],
    ['~0 & 0xFF', 255n],
    ['2 + 3 * 4', 14n],
    ['(7 ^ 2) % 4', 1n],
  ])('%s is %s', (text, value) => {
    expect(valueOf(text, names)).toBe(value);
  });

  it.each(['1 <<', '(1', '1 2', 'NOPE', '1 / 0', '$', `${'('.repeat(200)}1${')'.repeat(200)}`])(
    '%s is refused',
    (text) => {
      expect(() => valueOf(text, names)).toThrow(CodeFault);
    },
  );

  it('agrees with the language itself on sums, shifts and masks', () => {
    const leaf = fc.integer({ min: 0, max: 255 }).map(String);
    const tree = fc.letrec<{ node: string }>((tie) => ({
      node: fc.oneof(
        { maxDepth: 4 },
        leaf,
        fc
          .tuple(tie('node'), fc.constantFrom('|', '&', '^', '+', '-', '*'), tie('node'))
          .map(([one, sign, other]) => `(${one} ${sign} ${other})`),
      ),
    })).node;
    fc.assert(
      fc.property(tree, (text) => {
        const expected = runInNewContext(text.replace(/\d+/g, '$&n')) as bigint;
        expect(valueOf(text, names)).toBe(expected);
      }),
      { numRuns: 300 },
    );
  });

  it('never throws anything but its own fault', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        try {
          valueOf(text, names);
          readStores(atmega328p, `OCR1A = ${text};\n${text}`);
        } catch (error) {
          expect(error).toBeInstanceOf(CodeFault);
        }
      }),
      { numRuns: 2000 },
    );
  });
});

describe('stores', () => {
  it('follow each other: =, |=, &= with a complement, arrows, fields, several to a line', () => {
    const text =
      'TCCR1B = 0x0B; OCR1A = 249;\nTCCR1B |= (1 << WGM13); // up\nTCCR1B &= ~(1 << CS11); /* off */';
    expect(Object.fromEntries(readStores(atmega328p, text).values)).toEqual({ TCCR1B: 0x19, OCR1A: 249 });
    const arm = part('stm32f401');
    const stores = readStores(arm, 'TIM3->PSC = 84 - 1;\nTIM3->CR1 |= TIM3_CR1_ARPE;\nTIM3_CR1.CEN = 1;');
    expect(stores.values.get('TIM3_PSC')).toBe(83);
    expect(stores.stores.map(({ line }) => line)).toEqual([1, 2, 3]);
    expect((stores.values.get('TIM3_CR1') ?? 0) & 1).toBe(1);
  });

  it.each([
    ['TCCR9B = 1;', /^Line 1: ATmega328P has no register TCCR9B. Did you mean TCCR/],
    ['\n\nOCR1A = WIDTH;', /^Line 3: “WIDTH” is not a bit or register/],
    ['OCR1A = (5;', /^Line 1: A closing parenthesis is missing/],
    ['hello world', /^No register of ATmega328P is written here; say for example OCR0A = 0x2A;/],
  ])('%j is refused with its line', (text, message) => {
    const found = decodeText(atmega328p, clockPath(atmega328p, atmega328p.defaultClock), text);
    expect(found).toMatchObject({
      ok: false,
      fault: { sentence: expect.stringMatching(message) as unknown },
    });
  });
});

describe('what code really does', () => {
  it('TCCR1B = 0x0B; OCR1A = 249: clear on compare, prescaler 64, nothing connected', () => {
    const [timer] = read('atmega328p', 'TCCR1B = 0x0B; OCR1A = 249;').timers;
    expect(timer).toMatchObject({ mode: 'ctc', prescaler: 64, top: 249, running: true, effects: [] });
    expect(timer?.notes).toContain('No output of Timer 1 is connected, and no interrupt is enabled.');
  });

  it('says what is not enabled: clock, direction, global interrupts', () => {
    const [still] = read('atmega328p', 'TCCR1A = 0x82; TCCR1B = 0x18; ICR1 = 999; OCR1A = 500;').timers;
    expect(still?.running).toBe(false);
    expect(still?.notes).toContain('Timer 1 stands still: no clock is selected.');
    const [hidden] = read('atmega328p', 'TCCR1A = 0x82; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 7999;').timers;
    expect(hidden?.notes).toContain('PB1 does not show it yet: DDRB.DDB1 is 0, not 1.');
    expect(exactText(hidden!.effects[0]!.outcome.frequency)).toBe('1000');
    const [tick] = read('atmega328p', 'TCCR0A = 2; TCCR0B = 3; OCR0A = 249; TIMSK0 = (1 << OCIE0A);').timers;
    expect(tick?.notes).toEqual([
      'The interrupt is enabled, but nothing lets interrupts happen: sei(); is missing.',
    ]);
    expect(exactText(tick!.effects[0]!.outcome.frequency)).toBe('1000');
    const arm = read('stm32f401', 'TIM3->PSC = 83; TIM3->ARR = 999;').timers[0];
    expect(arm?.running).toBe(false);
    expect(arm?.notes.join(' ')).toMatch(/TIM3 stands still: its run bit is not set/);
  });

  it('takes back what the encoder wrote, for the best settings of every part', () => {
    for (const own of PARTS) {
      const path = clockPath(own, own.defaultClock);
      for (const aim of [
        { kind: 'tone', target: { frequencyHz: 1000, toleranceCents: 20 } },
        { kind: 'dim', target: { minHz: 150, minSteps: 30, duty: 0.3 } },
      ] as KindAndTarget[]) {
        const found = fitRequirement(own, path, requirementOf(aim), undefined, 'hardware').candidates;
        const places = new Map(
          found.map(({ setting }) => [
            isOutput(setting) ? `${setting.timer} ${setting.mode} ${setting.drive}` : '',
            setting,
          ]),
        );
        for (const setting of places.values()) {
          const text = settingRegisters(own, setting)
            .map(({ name, value }) => `${name} = ${value};`)
            .join('\n');
          const reading = decodeText(own, path, text);
          const settings = reading.ok
            ? reading.value.timers.flatMap(({ effects }) => effects.map((effect) => effect.setting))
            : [];
          expect(settings).toContainEqual(setting);
        }
      }
    }
  });
});

type Row = [
  slip: string,
  id: string,
  text: string,
  aim: KindAndTarget,
  pin?: string,
  clock?: Partial<ClockSetting>,
];

const kilo: KindAndTarget = { kind: 'blink', target: { frequencyHz: 1000, frequencyTolerancePpm: 20 } };
const tenth: KindAndTarget = {
  kind: 'blink',
  target: { frequencyHz: 1000, duty: 0.1, dutyTolerance: 0.002 },
};
const fast = 'DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19;';
const servo: KindAndTarget = { kind: 'pulse', target: { frameHz: 50, widthS: 0.0015 } };

const ROWS: Row[] = [
  ['minus-one', 'atmega328p', `${fast} ICR1 = 16000; OCR1A = 8000;`, kilo, 'PB1'],
  [
    'minus-one',
    'atmega328p',
    'TCCR0A = 2; TCCR0B = 3; OCR0A = 250; TIMSK0 = 2; sei();',
    { kind: 'tick', target: { frequencyHz: 1000 } },
  ],
  ['minus-one-twice', 'atmega328p', `${fast} ICR1 = 15998; OCR1A = 7999;`, kilo, 'PB1'],
  ['toggle-half', 'atmega328p', 'DDRB = 2; TCCR1A = 0x40; TCCR1B = 0x09; OCR1A = 15999;', kilo, 'PB1'],
  ['halved-twice', 'atmega328p', 'DDRB = 2; TCCR1A = 0x40; TCCR1B = 0x09; OCR1A = 3999;', kilo, 'PB1'],
  [
    'up-down-half',
    'atmega328p',
    'DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x11; ICR1 = 16000; OCR1A = 8000;',
    kilo,
    'PB1',
  ],
  [
    'interval-period',
    'atmega328p',
    'TCCR1B = 0x0C; OCR1A = 62499; TIMSK1 = (1 << OCIE1A); sei();',
    { kind: 'blink', target: { frequencyHz: 1 } },
    'PC0',
  ],
  ['fraction-percent', 'atmega328p', `${fast} ICR1 = 15999; OCR1A = 15;`, tenth, 'PB1'],
  [
    'unit-1000',
    'atmega328p',
    `${fast} ICR1 = 31; OCR1A = 15;`,
    { kind: 'blink', target: { periodS: 0.002 } },
    'PB1',
  ],
  ['clock', 'atmega328p', `${fast} ICR1 = 7999; OCR1A = 3999;`, kilo, 'PB1'],
  ['clock', 'atmega328p', `${fast} ICR1 = 15999; OCR1A = 7999;`, kilo, 'PB1', { settings: { io: 8 } }],
  [
    'clock',
    'pic16f684',
    'PR2 = 249; CCPR1L = 125; CCP1CON = 0x0C; T2CON = 0x05; TRISC = 0;',
    { kind: 'tone', target: { frequencyHz: 20000 } },
    'RC5',
  ],
  [
    'clock',
    'stm32f401',
    'TIM3->PSC = 41; TIM3->ARR = 999; TIM3->CCR1 = 500; TIM3->CCMR1 = 0x68; TIM3->CCER = 1; TIM3->CR1 = 0x81;',
    kilo,
    'PA6',
  ],
  [
    'prescaler-table',
    'atmega328p',
    'TCCR2A = 2; TCCR2B = 3; OCR2A = 249; TIMSK2 = (1 << OCIE2A); sei();',
    { kind: 'tick', target: { frequencyHz: 1000 } },
  ],
  [
    'prescaler',
    'atmega328p',
    'DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x1B; ICR1 = 15999; OCR1A = 7999;',
    kilo,
    'PB1',
  ],
  [
    'given-away',
    'pic16f684',
    'OPTION_REG = 0x09; TMR0 = 58; INTCON = 0x20; INTCON |= 0x80u;',
    { kind: 'tick', target: { frequencyHz: 2500, frequencyTolerancePpm: 20000 } },
    undefined,
    { source: 'rc8', sourceHz: 8e6 },
  ],
  [
    'hold-off',
    'pic16f684',
    'OPTION_REG = 0x08; TMR0 = 56; INTCON = 0x20; INTCON |= 0x80u;',
    { kind: 'tick', target: { frequencyHz: 10000 } },
    undefined,
    { source: 'rc8', sourceHz: 8e6 },
  ],
  ['above-top', 'atmega328p', `${fast} ICR1 = 15999; OCR1A = 20000;`, kilo, 'PB1'],
  ['zero', 'atmega328p', 'DDRB = 2; TCCR1A = 0x82; TCCR1B = 0x19; OCR1A = 100;', kilo, 'PB1'],
  [
    'never-off',
    'atmega328p',
    `${fast} ICR1 = 15999; OCR1A = 0;`,
    { kind: 'dim', target: { minHz: 200, minSteps: 100, duty: 0 } },
    'PB1',
  ],
  [
    'never-full',
    'pic18f4620',
    'PR2 = 255; CCPR1L = 255; CCP1CON = 0x3C; T2CON = 4; TRISC = 0;',
    { kind: 'dim', target: { minHz: 200, minSteps: 100, duty: 1 } },
    'RC2',
  ],
  [
    'coarse',
    'atmega328p',
    'DDRB = 8; TCCR2A = 0x83; TCCR2B = 7; OCR2A = 18;',
    servo,
    'PB3',
    { source: 'external', sourceHz: 13107200 },
  ],
  [
    'inverted',
    'atmega328p',
    'DDRB = 2; TCCR1A = 0xC2; TCCR1B = 0x19; ICR1 = 15999; OCR1A = 1599;',
    tenth,
    'PB1',
  ],
  [
    'compare-one',
    'atmega328p',
    `${fast} ICR1 = 15999; OCR1A = 8000;`,
    { kind: 'blink', target: { frequencyHz: 1000, dutyTolerance: 0.00005 } },
    'PB1',
  ],
  ['wrong-pin', 'atmega328p', `${fast} ICR1 = 15999; OCR1A = 7999;`, kilo, 'PB2'],
  [
    'overwritten',
    'atmega328p',
    `${fast} ICR1 = 15999; OCR1A = 7999;\nOCR1A = 1500;\nTCCR1A = 0;`,
    kilo,
    'PB1',
  ],
];

describe('wrong code', () => {
  it.each(ROWS.map((row, at) => [`${at + 1} ${row[0]}`, row] as const))('%s', (_, row) => {
    const [slip, id, text, aim, pin, clock] = row;
    const wanted = { requirement: requirementOf(aim), ...(pin ? { pin } : {}) };
    const { slips } = read(id, text, wanted, clock);
    expect(slips.map((one) => one.id)).toEqual([slip]);
    expect(slips[0]?.text).toMatch(/\d/);
  });

  it('and right code has no slip', () => {
    const right: [string, string, KindAndTarget, string?][] = [
      ['atmega328p', `${fast} ICR1 = 15999; OCR1A = 7999;`, kilo, 'PB1'],
      [
        'atmega328p',
        'TCCR0A = 2; TCCR0B = 3; OCR0A = 249; TIMSK0 = 2; sei();',
        { kind: 'tick', target: { frequencyHz: 1000 } },
      ],
      [
        'atmega328p',
        'TCCR1B = 0x0C; OCR1A = 31249; TIMSK1 = (1 << OCIE1A); sei();',
        { kind: 'blink', target: { frequencyHz: 1 } },
        'PC0',
      ],
      [
        'stm32f401',
        'TIM3->PSC = 83; TIM3->ARR = 999; TIM3->CCR1 = 500; TIM3->CCMR1 = 0x68; TIM3->CCER = 1; TIM3->CR1 = 0x81;',
        kilo,
        'PA6',
      ],
    ];
    for (const [id, text, aim, pin] of right) {
      expect(read(id, text, { requirement: requirementOf(aim), ...(pin ? { pin } : {}) }).slips).toEqual([]);
    }
  });
});
