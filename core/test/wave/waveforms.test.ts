import fc from 'fast-check';
import { clockPath } from '../../src/clock/path.ts';
import { fitRequirement } from '../../src/fit/fit.ts';
import { csvReader } from '../../src/io/csv-read.ts';
import { writeCsv } from '../../src/io/csv-write.ts';
import { vcdReader } from '../../src/io/vcd-read.ts';
import { vcdCode, writeVcd } from '../../src/io/vcd-write.ts';
import { wavReader } from '../../src/io/wav-read.ts';
import { writeWav } from '../../src/io/wav-write.ts';
import { unitFor, type NamedWaveform } from '../../src/wave/merge.ts';
import { PARTS, partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';
import { exact } from '../../src/quantity/exact.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import type { OutputSetting, Setting } from '../../src/timer/setting.ts';
import { wireEdges, type Capture } from '../../src/wave/capture.ts';
import { firstEdge, waveformOf } from '../../src/wave/waveform.ts';
import { measure } from '../../src/wave/measure.ts';
import {
  waveformEdges,
  waveformEdgeList,
  type Waveform,
  type SteadyWaveform,
} from '../../src/wave/stream.ts';
import { readWhole } from '../helpers/capture.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';

function waveform(part: Part, setting: Setting): { waveform: SteadyWaveform; tickHz: number } {
  const outcome = outcomeUnder(part, clockPath(part, part.defaultClock), setting);
  return { waveform: waveformOf(part, setting, outcome), tickHz: outcome.tickHz.valueOf() };
}

const stm32 = partById('stm32f401') as Part;
const PWM: OutputSetting = {
  drive: 'pwm',
  timer: 'TIM3',
  mode: 'up',
  channel: 'CH1',
  pin: 'PA6',
  prescaler: 84,
  top: 9,
  compare: 3,
};

describe('a waveform from its start', () => {
  it('STM32F401: high at once, for 3 counts of ten, a count being 84 clocks', () => {
    const { waveform: own } = waveform(stm32, PWM);
    expect([...waveformEdgeList(own, 2520).edges]).toEqual([0, 252, 840, 1092, 1680, 1932]);
    expect(firstEdge(own)).toBe(0);
  });

  it('ATmega328P: the first run of a fast PWM stays low; a toggled output rises at its first match', () => {
    const avr = partById('atmega328p') as Part;
    const base = { timer: 'TIMER1', channel: 'OC1A', pin: 'PB1', prescaler: 8 } as const;
    const fast = waveform(avr, { ...base, drive: 'pwm', mode: 'fast-icr', top: 9, compare: 3 }).waveform;
    expect([...waveformEdgeList(fast, 240).edges]).toEqual([80, 112, 160, 192]);
    expect(firstEdge(fast)).toBe(80);
    const toggled = waveform(avr, { ...base, drive: 'toggle', mode: 'ctc', top: 9, compare: 9 }).waveform;
    expect([...waveformEdgeList(toggled, 320).edges]).toEqual([80, 160, 240]);
  });

  it('an interrupt that toggles rises after its first run', () => {
    const soft = waveform(stm32, {
      drive: 'interrupt',
      timer: 'TIM3',
      mode: 'up',
      prescaler: 84,
      top: 999,
      divider: 5,
      pin: 'PC0',
    }).waveform;
    expect([...waveformEdgeList(soft, 84 * 15001).edges]).toEqual([5, 10, 15].map((times) => times * 84000));
  });

  it('RP2040, 38 4/16: each edge on a whole clock, the mean exact', () => {
    const rp = partById('rp2040') as Part;
    const own = waveform(rp, {
      drive: 'pwm',
      timer: 'PWM0',
      mode: 'edge',
      channel: 'A',
      pin: 'GPIO0',
      prescaler: 38.25,
      top: 4,
      compare: 2,
    }).waveform;
    const { edges } = waveformEdgeList(own, 20 * own.cycle.periodTicks);
    expect([...edges].every((edge) => edge % 16 === 0)).toBe(true);
    // Five counts of 38.25 are 191.25 clocks: three periods of 191 and one of 192.
    const rises = [...edges].filter((_, at) => at % 2 === 0).map((edge) => edge / 16);
    const periods = rises.slice(1).map((rise, at) => rise - (rises[at] ?? 0));
    expect(periods.slice(0, 8).sort()).toEqual([191, 191, 191, 191, 191, 191, 192, 192]);
    expect(rises[16]).toBe(16 * 191.25);
  });

  it('streams: a day of 1 Hz and a second of 10 MHz in pieces of at most 65 537 edges', () => {
    const slow: Waveform = {
      cycle: { periodTicks: 1e6, edges: { rise: 0, fall: 5e5 } },
      scale: 1,
      settled: 0,
      begin: new Float64Array(0),
    };
    const quick: Waveform = {
      cycle: { periodTicks: 8, edges: { rise: 0, fall: 4 } },
      scale: 1,
      settled: 0,
      begin: new Float64Array(0),
    };
    for (const [own, to, count] of [
      [slow, 86400e6, 172800],
      [quick, 80e6, 2e7],
    ] as const) {
      let edges = 0;
      let last = -1;
      let longest = 0;
      for (const piece of waveformEdges(own, to)) {
        edges += piece.length;
        longest = Math.max(longest, piece.length);
        if (piece.length > 0) expect(piece[0]).toBeGreaterThan(last);
        last = piece[piece.length - 1] ?? last;
      }
      expect([edges, longest <= 65537]).toEqual([count, true]);
    }
  });
});

const AIMS: KindAndTarget[] = [
  { kind: 'tone', target: { frequencyHz: 1234.5 } },
  { kind: 'blink', target: { frequencyHz: 3, duty: 0.3 } },
  { kind: 'dim', target: { minHz: 300, minSteps: 60, duty: 0.4 } },
  { kind: 'tick', target: { frequencyHz: 100 } },
];

function firstEdges(own: Waveform, ticks: number): ArrayLike<number> {
  return waveformEdgeList(own, Math.ceil(ticks)).edges;
}

describe('files of computed waveforms', () => {
  const lanesOf = fc.array(fc.tuple(fc.nat(AIMS.length - 1), fc.nat(40)), { minLength: 1, maxLength: 4 });
  const fits = new Map(
    PARTS.map((part) => [
      part.id,
      AIMS.map(
        (aim) => fitRequirement(part, clockPath(part, part.defaultClock), requirementOf(aim)).candidates,
      ),
    ]),
  );

  const edgesIn = (capture: Capture, name: string, tickHz: number): number[] => {
    const wire = capture.wires.find((one) => one.name === name);
    const times = [...(wire?.times ?? [])];
    const changes = times.filter((_, at) => at > 0 || wire?.levels[0] === 1);
    return changes.map((time) => Math.round((time / capture.tickHz) * tickHz));
  };

  it('VCD and CSV give the same edges back, to the tick, whatever part, drive and clock', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...PARTS),
        lanesOf,
        fc.integer({ min: 1, max: 40 }),
        (part, picks, scale) => {
          const waveforms = picks.flatMap(([aim, which], at): NamedWaveform[] => {
            const candidates = fits.get(part.id)?.[aim] ?? [];
            const candidate = candidates[which % Math.max(1, candidates.length)];
            return candidate ? [{ name: `pin ${at}`, ...waveform(part, candidate.setting) }] : [];
          });
          fc.pre(waveforms.length > 0);
          // A fast output would fill a file with millions of edges and show nothing that thousands do not.
          const fastest = Math.max(
            ...waveforms.map(({ waveform: own, tickHz }) => firstEdges(own, tickHz / 1000).length * 1000),
          );
          const seconds = Math.min(scale / 1000, 20_000 / Math.max(1, fastest));
          for (const [file, reader, spaced] of [
            [[...writeVcd(waveforms, seconds)].join(''), vcdReader(), '_'],
            [[...writeCsv(waveforms, seconds)].join(''), csvReader(), ' '],
          ] as const) {
            const capture = readWhole(reader, file, 1 << 16);
            for (const { name, waveform: own, tickHz } of waveforms) {
              const expected = [...waveformEdgeList(own, Math.ceil(seconds * tickHz)).edges];
              expect(edgesIn(capture, name.replace(' ', spaced), tickHz)).toEqual(expected);
            }
          }
        },
      ),
      { numRuns: 150 },
    );
  });

  it('measured frequency and duty are the exact ones', () => {
    const { waveform: own, tickHz } = waveform(stm32, PWM);
    const capture = readWhole(
      vcdReader(),
      [...writeVcd([{ name: 'a', waveform: own, tickHz }], 0.001)].join(''),
    );
    const trace = capture.wires[0] && wireEdges(capture.wires[0], capture.to);
    const seen = trace && measure(trace);
    expect(seen?.period && exact(capture.tickHz).div(seen.period).toFraction()).toBe('100000');
    expect(seen?.duty?.toFraction()).toBe('3/10');
  });

  it('takes the coarsest unit that holds every tick, and codes of one character first', () => {
    const named = (tickHz: number): NamedWaveform => ({
      name: 'a',
      tickHz,
      waveform: waveform(stm32, PWM).waveform,
    });
    // 16 MHz: 62.5 ns are 625 of 100 ps.
    expect(unitFor([named(16e6)], 1)).toBe(1e10);
    expect(unitFor([named(1000), named(1e6)], 1)).toBe(1e6);
    // 84 MHz: no decimal unit; the finest that keeps a second whole.
    expect(unitFor([named(84e6)], 1)).toBe(1e15);
    expect(unitFor([named(84e6)], 3600)).toBe(1e12);
    expect([0, 93, 94, 94 + 94 * 94].map(vcdCode)).toEqual(['!', '~', '!!', '!!!']);
  });

  it('WAV: a tone written and read back has its frequency within a ppm', () => {
    const { waveform: own, tickHz } = waveform(stm32, { ...PWM, prescaler: 84, top: 2272, compare: 1136 });
    const capture = readWhole(wavReader(), writeWav({ name: 'a', waveform: own, tickHz }, 1));
    const trace = capture.wires[0] && wireEdges(capture.wires[0], capture.to);
    const hz = capture.tickHz / ((trace && measure(trace).period?.valueOf()) ?? NaN);
    expect(Math.abs(hz / (1e6 / 2273) - 1) * 1e6).toBeLessThan(3);
  });
});
