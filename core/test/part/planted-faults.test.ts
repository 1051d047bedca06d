import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { checkPart } from '../../src/timer/part-file.ts';
import { shipped } from '../helpers/parts.ts';

/** A part as its file holds it, to be changed at will. */
type Plain = Record<string, unknown>;

const quill = readFileSync(join(__dirname, '../../../examples/quill8.part.json'), 'utf8');
const FILES: [string, string][] = [
  ['quill8', quill],
  ...[
    'atmega328p',
    'attiny85',
    'pic16f684',
    'pic16f18875',
    'stm32f401',
    'samd21g18',
    'rp2040',
    'mk20dx256',
  ].map((id): [string, string] => [id, JSON.stringify({ ...shipped(id), id: `own-${id}` })]),
];

const list = (value: unknown): Plain[] => (Array.isArray(value) ? (value as Plain[]) : []);
const keys = (value: unknown): string[] => Object.keys(value ?? {});
const timers = (part: Plain): Plain[] => list(part['timers']);
const channels = (timer: Plain): Plain[] => list(timer['channels']);
const outputs = (timer: Plain): Plain[] => channels(timer).flatMap((channel) => list(channel['outputs']));
const options = (timer: Plain): Plain[] => list((timer['prescaler'] as Plain)['options']);
const withChannels = (part: Plain): Plain[] => timers(part).filter((timer) => channels(timer).length > 1);
const registerIn = (writes: unknown): string => (keys(writes)[0] ?? '').split('.')[0] ?? '';

function withoutStep(timer: Plain, register: string): boolean {
  const steps = list(timer['sequence']);
  if (!steps.some((step) => step['register'] === register)) return false;
  timer['sequence'] = steps.filter((step) => step['register'] !== register);
  return true;
}

/** The first value of some writes that a setting decides, changed. */
function valued(writes: unknown, change: (value: Plain) => void): boolean {
  for (const value of Object.values((writes ?? {}) as Plain)) {
    if (typeof value !== 'object' || value === null) continue;
    change(value as Plain);
    return true;
  }
  return false;
}

/** A fault of one kind: it changes a part and says whether that part has such a thing at all. */
type Planted = [name: string, plant: (part: Plain) => boolean];

const PLANTED: Planted[] = [
  [
    'a compare register that the sequence never writes',
    (part) =>
      timers(part).some((timer) =>
        channels(timer).some((one) => withoutStep(timer, registerIn(one['compare']))),
      ),
  ],
  [
    'a top that the sequence never writes',
    (part) =>
      timers(part).some((timer) =>
        list(timer['modes']).some(({ top }) => withoutStep(timer, registerIn((top as Plain)['writes']))),
      ),
  ],
  [
    'a control register that the sequence never writes',
    (part) =>
      timers(part).some((timer) =>
        list(timer['modes']).some(({ writes }) => withoutStep(timer, registerIn(writes))),
      ),
  ],
  [
    'two registers at one address',
    (part) => {
      const [one, other] = list(part['registers']);
      other!['address'] = one!['address'];
      return true;
    },
  ],
  [
    'a field that reaches into its neighbour',
    (part) =>
      list(part['registers']).some((register) => {
        const fields = Object.values(register['fields'] as Record<string, [number, number]>).sort(
          ([, one], [, other]) => one - other,
        );
        const [low, next] = fields;
        if (!low || !next) return false;
        low[0] = next[1];
        return true;
      }),
  ],
  [
    'two divisions by the same bits',
    (part) =>
      timers(part).some((timer) => {
        const [one, other] = options(timer);
        if (!one || !other) return false;
        other['writes'] = one['writes'];
        return true;
      }),
  ],
  [
    'a division that is there twice',
    (part) =>
      timers(part).some((timer) => {
        const [one, other] = options(timer);
        if (!one || !other) return false;
        other['divide'] = one['divide'];
        return true;
      }),
  ],
  [
    'a pin that nothing makes an output',
    (part) => {
      const [pin] = list(part['pins']);
      pin!['enable'] = {};
      delete pin!['software'];
      return true;
    },
  ],
  [
    'two pins made outputs by the same bits',
    (part) => {
      const [one, other] = list(part['pins']).filter(({ enable }) => keys(enable).length > 0);
      if (!one || !other) return false;
      other['enable'] = one['enable'];
      return true;
    },
  ],
  [
    'two pins put high by the same bits',
    (part) => {
      const [one, other] = list(part['pins']).filter(({ software }) => software !== undefined);
      if (!one || !other) return false;
      (other['software'] as Plain)['high'] = (one['software'] as Plain)['high'];
      return true;
    },
  ],
  [
    'high that is low',
    (part) => {
      const pin = list(part['pins']).find(({ software }) => software !== undefined);
      if (!pin) return false;
      const software = pin['software'] as Plain;
      software['high'] = software['low'];
      return true;
    },
  ],
  [
    'a pin that is high before its timer runs',
    (part) => {
      const pin = list(part['pins']).find(({ software, idle }) => {
        const [place = ''] = keys((software as Plain | undefined)?.['low']);
        return place !== '' && place in ((idle ?? {}) as Plain);
      });
      if (!pin) return false;
      const [place = ''] = keys((pin['software'] as Plain)['low']);
      const idle = pin['idle'] as Record<string, number>;
      idle[place] = idle[place] === 0 ? 1 : 0;
      return true;
    },
  ],
  [
    'one compare register for two channels',
    (part) =>
      withChannels(part).some((timer) => {
        const [one, other] = channels(timer);
        other!['compare'] = one!['compare'];
        return true;
      }),
  ],
  [
    'a compare value that loses its last bit',
    (part) =>
      timers(part).some((timer) =>
        channels(timer).some(({ compare }) =>
          valued(compare, (value) => (value['shift'] = Number(value['shift'] ?? 0) + 1)),
        ),
      ),
  ],
  [
    'a compare value cut to three bits',
    (part) =>
      timers(part).some((timer) =>
        channels(timer).some(({ compare }) => valued(compare, (value) => (value['keep'] = 3))),
      ),
  ],
  [
    'a top that loses its last bit',
    (part) =>
      timers(part).some((timer) =>
        list(timer['modes']).some(
          ({ top }) =>
            ['register', 'channel'].includes(String((top as Plain)['kind'])) &&
            valued((top as Plain)['writes'], (value) => (value['shift'] = Number(value['shift'] ?? 0) + 1)),
        ),
      ),
  ],
  [
    'a top that is the compare value',
    (part) =>
      timers(part).some((timer) =>
        list(timer['modes']).some(({ top }) => {
          const [channel] = channels(timer);
          if ((top as Plain)['kind'] !== 'register' || !channel) return false;
          const [place = ''] = keys(channel['compare']);
          (top as Plain)['writes'] = { [place]: { of: 'top' } };
          return true;
        }),
      ),
  ],
  [
    'a running count that is the compare value',
    (part) =>
      timers(part).some((timer) => {
        const [channel] = channels(timer);
        const place = keys(channel?.['compare'])[0];
        if (timer['counter'] === undefined || place === undefined || place.includes('.')) return false;
        timer['counter'] = place;
        return true;
      }),
  ],
  [
    'an output that nothing connects',
    (part) =>
      timers(part).some((timer) => {
        const [output] = outputs(timer);
        if (output) output['writes'] = {};
        return output !== undefined;
      }),
  ],
  [
    'an output switched by the bits of another channel',
    (part) =>
      withChannels(part).some((timer) => {
        const [one, other] = channels(timer).map((channel) => list(channel['outputs'])[0]);
        if (!one || !other) return false;
        for (const key of ['drive', 'polarity', 'writes']) other[key] = one[key];
        return true;
      }),
  ],
  [
    'the same output twice',
    (part) =>
      timers(part).some((timer) =>
        channels(timer).some((channel) => {
          const [output] = list(channel['outputs']);
          if (output) channel['outputs'] = [...list(channel['outputs']), output];
          return output !== undefined;
        }),
      ),
  ],
  [
    'two modes by the same bits',
    (part) =>
      timers(part).some((timer) => {
        const modes = list(timer['modes']);
        const [one] = modes;
        const other = modes.slice(1).find(({ top }) => JSON.stringify(top) === JSON.stringify(one?.['top']));
        if (!one || !other || JSON.stringify(one['start']) !== JSON.stringify(other['start'])) return false;
        other['writes'] = one['writes'];
        return true;
      }),
  ],
  [
    'an interrupt that nothing enables',
    (part) =>
      timers(part).some(({ interrupts }) => {
        const [own] = Object.values((interrupts ?? {}) as Record<string, Plain>);
        if (own) own['enable'] = {};
        return own !== undefined;
      }),
  ],
  [
    'a flag that is the enable bit',
    (part) =>
      timers(part).some(({ interrupts }) => {
        const [own] = Object.values((interrupts ?? {}) as Record<string, Plain>);
        if (own) own['flag'] = keys(own['enable'])[0];
        return own !== undefined;
      }),
  ],
  [
    'one flag for two matches',
    (part) =>
      withChannels(part).some((timer) => {
        const [one, other] = channels(timer).filter(({ interrupt }) => interrupt !== undefined);
        if (!one || !other) return false;
        (other['interrupt'] as Plain)['flag'] = (one['interrupt'] as Plain)['flag'];
        return true;
      }),
  ],
  [
    'a field left out of its only store',
    (part) =>
      timers(part).some((timer) => {
        const steps = list(timer['sequence']);
        const at = steps.findIndex((step) => list(step['without']).length > 0);
        const register = steps[at]?.['register'];
        if (at < 0) return false;
        timer['sequence'] = steps.filter((step, index) => index <= at || step['register'] !== register);
        return true;
      }),
  ],
  [
    'a prescaler of a range that loses a bit',
    (part) =>
      timers(part).some((timer) => {
        const prescaler = timer['prescaler'] as Plain;
        return prescaler['kind'] === 'range' && valued(prescaler['writes'], (value) => (value['shift'] = 1));
      }),
  ],
  [
    'a value too large for its field',
    (part) =>
      timers(part).some((timer) =>
        list(timer['modes']).some((mode) => {
          const [place = ''] = keys(mode['writes']);
          if (place === '') return false;
          (mode['writes'] as Plain)[place] = 2 ** 33;
          return true;
        }),
      ),
  ],
];

/** Faults that only one part can have, by its file. */
const OWN: Planted[] = [
  [
    'a mode that nothing starts',
    (part) => {
      timers(part)[0]!['modes'] = list(timers(part)[0]!['modes']).map((mode) => ({ ...mode, writes: {} }));
      return true;
    },
  ],
];

function sentenceAfter(text: string, plant: (part: Plain) => boolean): string | undefined {
  const part = JSON.parse(text) as Plain;
  if (!plant(part)) return undefined;
  const read = checkPart(part);
  return read.ok ? 'whole' : read.fault.sentence;
}

describe('single faults planted in part files', () => {
  it.each(FILES)('%s is whole without them', (_, text) => {
    expect(checkPart(JSON.parse(text))).toMatchObject({ ok: true });
  });

  it('are refused with a path and a sentence, more than a hundred of them', () => {
    let planted = 0;
    for (const [id, text] of FILES) {
      for (const [name, plant] of [...PLANTED, ...(id === 'quill8' ? OWN : [])]) {
        const sentence = sentenceAfter(text, plant);
        if (sentence === undefined) continue;
        planted += 1;
        expect([id, name, sentence]).toEqual([id, name, expect.stringMatching(/^\w.*\.$/s)]);
      }
    }
    expect(planted).toBeGreaterThanOrEqual(100);
  });

  it('say what is wrong: five of them in the worked example', () => {
    const told = (name: string): string | undefined => {
      const [, plant] = [...PLANTED, ...OWN].find(([own]) => own === name) ?? [];
      return plant && sentenceAfter(quill, plant);
    };
    expect(told('two divisions by the same bits')).toBe(
      'timers[0].prescaler.options[1]: dividing by 1 and by 4 is the same bits.',
    );
    expect(told('two registers at one address')).toBe(
      'registers[1].address: DIRA has the same address as OUTA, 0x10.',
    );
    expect(told('a compare value that loses its last bit')).toBe(
      'timers[0].channels[0].compare: a compare value of 0 and a compare value of 1 give the same registers.',
    );
    expect(told('an output that nothing connects')).toBe(
      'timers[0].channels[0].outputs[0].writes: nothing connects A0 with output 0.',
    );
    expect(told('a mode that nothing starts')).toBe(
      'timers[0].modes[0].writes: every control field is as after reset with one of the divisions, so that nothing starts the timer.',
    );
  });
});
