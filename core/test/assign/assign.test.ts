import fc from 'fast-check';
import { assign } from '../../src/assign/assign.ts';
import { bandsFor, kthOf } from '../../src/assign/counter/bands.ts';
import { qualityLevel, qualityOf, cpuSteps, LEVELS, scalesOf } from '../../src/assign/counter/quality.ts';
import { narrowed, optionsOf, type Option, type Place, type Request } from '../../src/assign/request.ts';
import { compareObjectives, type Objective } from '../../src/assign/objective.ts';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { rateTop, tickRequirement } from '../../src/fit/candidate.ts';
import { topSeries } from '../../src/fit/hardware/tops.ts';
import { timerOf, rootOf } from '../../src/part/find.ts';
import { partById } from '../helpers/parts.ts';
import type { Part, Timer } from '../../src/part/types.ts';
import type { KindAndTarget } from '../../src/signal/signal.ts';
import { avr, path, requestOf, small, sound, stm32, withoutProgram } from '../helpers/small-part.ts';
import { interruptCycles } from '../../src/timer/run.ts';
import { hasTimer, topRange } from '../../src/timer/setting.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';

/** What a counter does for one use: whether it meets, and how well. */
function meeting(option: Option, request: Request, n: number, top: number): number | undefined {
  const { timer, mode, drive } = option;
  const requirement = narrowed(request.requirement, path, timer);
  if (!requirement) return undefined;
  if (drive === 'interrupt') {
    const run = (n * (top + mode.base)) / clockOf(path, timer.clock).valueOf();
    const wanted = requirement.frequency.kind === 'near' ? requirement.frequency.ideal.valueOf() : 0;
    const qualities = Array.from({ length: 400 }, (_, at) => 1 / (run * (at + 1)))
      .filter(
        (hz) =>
          hz >= requirement.frequency.low.valueOf() &&
          requirement.frequency.kind === 'near' &&
          hz <= requirement.frequency.high.valueOf(),
      )
      .sort((one, other) => Math.abs(Math.log(one / wanted)) - Math.abs(Math.log(other / wanted)));
    const [hz] = qualities;
    return hz === undefined
      ? undefined
      : qualityOf(scalesOf(requirement), { frequencyHz: hz, duty: 0, steps: 1 });
  }
  const own = (['pwm', 'toggle'] as const).find((one) => one === drive);
  if (!own) return undefined;
  const wanted = tickRequirement(requirement, clockOf(path, timer.clock));
  const [channel] = timer.channels;
  const outputs = option.places.flatMap((place) => place.outputs);
  const both = (['normal', 'inverted'] as const).flatMap(
    (one) => outputs.find(({ polarity }) => polarity === one) ?? [],
  );
  if (!channel) return undefined;
  const route = { timer, mode, drive: own, channel, pin: '', outputs: both };
  const rating = rateTop(route, n, top, topSeries(mode, n, drive === 'toggle' ? 2 : 1), wanted);
  return rating.meets ? qualityOf(scalesOf(requirement), rating) : undefined;
}

/**
 * What ticks cost on a run: a handler each and the way in and out, at the rate that the fastest user of the timer wants.
 */
function costOf(seats: readonly { option: Option; request: Request }[], n: number, top: number): number {
  const ticks = seats.filter(({ option }) => option.drive === 'interrupt').length;
  if (ticks === 0) return 0;
  const runs = seats.flatMap(({ option, request }) => {
    const requirement = narrowed(request.requirement, path, option.timer);
    if (requirement?.frequency.kind !== 'near') return [];
    const { timer, mode, drive } = option;
    const ideal = requirement.frequency.ideal.valueOf();
    const change = 1 / ideal / (drive === 'toggle' ? 2 : 1);
    const runS = (n * (top + mode.base)) / clockOf(path, timer.clock).valueOf();
    return [{ change, k: drive === 'interrupt' ? Math.max(1, Math.round(1 / ideal / runS)) : 1 }];
  });
  const [fastest] = runs.sort((one, other) => one.change - other.change);
  if (!fastest) throw new Error('a tick has a frequency');
  const around = interruptCycles(small.cpu) - small.cpu.handlerCycles;
  const cycles = around + small.cpu.handlerCycles * ticks;
  const cpuHz = clockOf(path, small.cpu.clock).valueOf();
  return cpuSteps(((fastest.k / fastest.change) * cycles) / cpuHz) / 1e7;
}

type Seat = { at: number; option: Option; request: Request };

/** What every division and top does for one use, computed once. */
type Table = (seat: Seat, n: number, top: number) => number | undefined;
function tableOf(): Table {
  const known = new Map<string, Map<number, number | undefined>>();
  return ({ at, option, request }, n, top) => {
    const key = `${at} ${option.timer.id} ${option.mode.id} ${option.drive}`;
    const own = known.get(key) ?? new Map<number, number | undefined>();
    known.set(key, own);
    const place = n * 1000 + top;
    if (!own.has(place)) own.set(place, meeting(option, request, n, top));
    return own.get(place);
  };
}

/** The best worth of one timer's users, every division and top tried. */
function bestCounter(seats: readonly Seat[], table: Table): { cpu: number; level: number } | undefined {
  const [first] = seats;
  if (!first) return undefined;
  const { timer, mode } = first.option;
  const range = topRange(mode);
  let best: { cpu: number; level: number } | undefined;
  for (const { divide } of timer.prescaler.kind === 'list' ? timer.prescaler.options : []) {
    for (let top = range.min; top <= range.max; top += 1) {
      const qualities = seats.map((seat) => table(seat, divide, top));
      if (qualities.some((one) => one === undefined)) continue;
      const cpu = costOf(seats, divide, top);
      if (cpu > 0.5) continue;
      const level = qualityLevel(Math.min(1, ...qualities.map((one) => one ?? 0)));
      const cheaper = best ? cpuSteps(cpu) - cpuSteps(best.cpu) : -1;
      if (cheaper < 0 || (cheaper === 0 && level > (best?.level ?? -1))) best = { cpu, level };
    }
  }
  return best;
}

/** Whether channels and pins can be dealt, every combination tried. */
function dealable(seats: readonly Seat[], pins: Set<string>, channels: Set<string>): boolean {
  const [own, ...others] = seats;
  if (!own) return true;
  return own.option.places.some((place: Place) => {
    const { top } = own.option.mode;
    const key = `${rootOf(own.option.timer)} ${place.channel}`;
    const lost = top.kind === 'channel' && top.channel === place.channel && own.option.drive !== 'toggle';
    if (place.channel !== undefined && (channels.has(key) || lost)) return false;
    if (place.pin !== undefined && pins.has(place.pin)) return false;
    const more = new Set(place.channel === undefined ? channels : [...channels, key]);
    return dealable(others, new Set(place.pin === undefined ? pins : [...pins, place.pin]), more);
  });
}

/** The best worth of all assignments, every one of them tried. */
function exhaustive(requests: readonly Request[]): Objective | undefined {
  const options = requests.map((request) => optionsOf(small, path, request, new Set()));
  const known = new Map<string, { cpu: number; level: number } | undefined>();
  const table = tableOf();
  const counter = (seats: Seat[]): { cpu: number; level: number } | undefined => {
    const key = seats
      .map(({ at, option }) => `${at} ${option.timer.id} ${option.mode.id} ${option.drive}`)
      .join();
    if (!known.has(key)) known.set(key, bestCounter(seats, table));
    return known.get(key);
  };
  let best: Objective | undefined;
  const go = (at: number, taken: Seat[]): void => {
    const request = requests[at];
    if (!request) {
      const roots = [...new Set(taken.map(({ option }) => rootOf(option.timer)))];
      const made = roots.map((root) => counter(taken.filter(({ option }) => rootOf(option.timer) === root)));
      if (made.some((one) => one === undefined)) return;
      const objective = {
        cpu: made.reduce((sum, one) => sum + (one?.cpu ?? 0), 0),
        level: Math.min(LEVELS, ...made.map((one) => one?.level ?? 0)),
        timers: roots.length,
      };
      if ((!best || compareObjectives(objective, best) < 0) && dealable(taken, new Set(), new Set()))
        best = objective;
      return;
    }
    for (const option of options[at] ?? []) {
      const other = taken.find((one) => rootOf(one.option.timer) === rootOf(option.timer));
      if (other && other.option.mode !== option.mode) continue;
      const seat = { at, option, request };
      const group = [...taken.filter((one) => one.option.timer === option.timer), seat];
      if (counter(group)) go(at + 1, [...taken, seat]);
    }
  };
  go(0, []);
  return best;
}

describe('an assignment', () => {
  it('agrees with every assignment tried, on 300 small problems of up to five signals on three timers', () => {
    const hz = fc.constantFrom(31250, 40000, 50000, 62500, 100000, 125000, 250000);
    const ppm = fc.constantFrom(2000, 20000, 60000);
    const duty = fc.constantFrom(0.25, 0.5, 0.75);
    const aim: fc.Arbitrary<KindAndTarget> = fc.oneof(
      fc.record({ frequencyHz: hz, frequencyTolerancePpm: ppm, duty }).map((target): KindAndTarget => ({
        kind: 'blink',
        target: { ...target, dutyTolerance: 0.06 },
      })),
      fc
        .record({ minHz: fc.constantFrom(20000, 60000), minSteps: fc.constantFrom(10, 25, 60), duty })
        .map((target): KindAndTarget => ({ kind: 'dim', target: { ...target, dutyTolerance: 0.06 } })),
      fc.constantFrom(2000, 5000, 10000).map((frequencyHz): KindAndTarget => ({
        kind: 'tick',
        target: { frequencyHz, frequencyTolerancePpm: 5000, jitterS: 1e-3 },
      })),
    );
    const pin = fc.constantFrom(undefined, undefined, 'PD6', 'PD5', 'PB1', 'PB3', 'PD3');
    const problem = fc.array(fc.tuple(aim, pin), { minLength: 1, maxLength: 5 });
    const seen = { feasible: 0, refused: 0 };
    fc.assert(
      fc.property(problem, (list) => {
        const pins = new Set<string>();
        const requests = list.map(([one, place], at) => {
          const own = place !== undefined && one.kind !== 'tick' && !pins.has(place) ? place : undefined;
          if (own !== undefined) pins.add(own);
          return requestOf(one, at, own);
        });
        const found = assign(small, path, requests);
        const expected = exhaustive(requests);
        expect(found.feasible).toBe(expected !== undefined);
        if (expected && found.objective) {
          expect(compareObjectives(found.objective, expected)).toBe(0);
          sound(requests, found, small, path);
          seen.feasible += 1;
        } else seen.refused += 1;
      }),
      { numRuns: 300 },
    );
    expect(Math.min(seen.feasible, seen.refused)).toBeGreaterThan(30);
  });

  it('two tones a fifth apart do not share a timer; 440 and 441 Hz within 5 cents do, where both accept it', () => {
    const one: Part = { ...stm32, timers: [timerOf(stm32, 'TIM3')] };
    const under = clockPath(one, {
      source: 'crystal',
      sourceHz: 8e6,
      tolerancePpm: 30,
      settings: { pllM: 8, pllN: 336, pllP: 4 },
    });
    const tone = (frequencyHz: number, at: number): Request =>
      requestOf({ kind: 'tone', target: { frequencyHz, toleranceCents: 5 } }, at);
    const free = { ...one, pins: one.pins.map(withoutProgram) };
    expect(assign(free, under, [tone(440, 0), tone(660, 1)])).toMatchObject({
      feasible: false,
      optimal: true,
    });
    const found = assign(free, under, [tone(440, 0), tone(441, 1)]);
    expect(found).toMatchObject({ feasible: true, optimal: true, objective: { timers: 1 } });
    sound([tone(440, 0), tone(441, 1)], found, free, under);
    // 5 cents are 0.289 %: 440 goes up to 441.27 Hz, 441 down to 439.73, the oscillator's 30 ppm off on both sides.
    const made = outcomeUnder(free, under, found.settings[0]!).frequency.valueOf();
    expect(made).toBeGreaterThan(439.73);
    expect(made).toBeLessThan(441.27);
  });

  it('leaves reserved timers alone, and settings that stay as they are', () => {
    const tick = requestOf({ kind: 'tick', target: { frequencyHz: 5000, frequencyTolerancePpm: 5000 } }, 0);
    const lamp = requestOf(
      { kind: 'blink', target: { frequencyHz: 31250, duty: 0.5, dutyTolerance: 0.05 } },
      1,
    );
    const free = assign(small, path, [tick, lamp]);
    const used = free.settings.map((one) => (hasTimer(one) ? one.timer : ''));
    const other = assign(small, path, [tick, lamp], { reserved: new Set([used[1] ?? '']) });
    expect(other.settings.map((one) => (hasTimer(one) ? one.timer : ''))).not.toContain(used[1]);
    const locked = free.settings[1];
    if (!locked) throw new Error('no setting');
    expect(assign(small, path, [tick, { ...lamp, locked }]).settings[1]).toEqual(locked);
  });

  it('stops when it is told to, and does not claim a proof then', () => {
    const aims = Array.from({ length: 12 }, (_, at): KindAndTarget => ({
      kind: 'blink',
      target: { frequencyHz: 3 + at * 1.37, duty: 0.2, frequencyTolerancePpm: 3000 },
    }));
    const requests = aims.map((aim, at) => requestOf(aim, at));
    const found = assign(avr, path, requests, { mayContinue: () => false });
    expect(found.nodes).toBeLessThanOrEqual(512);
    expect(found.optimal).toBe(false);
  });

  it('makes one of two by the program where both timers have their only output at one pin', () => {
    const mega = partById('atmega2560') as Part;
    const one = (id: string, channel: string): Timer => {
      const own = timerOf(mega, id);
      return { ...own, channels: own.channels.filter((single) => single.id === channel) };
    };
    // OC0A and OC1C are both PB7.
    const part: Part = { ...mega, timers: [one('TIMER0', 'OC0A'), one('TIMER1', 'OC1C')] };
    const under = clockPath(part, { source: 'crystal', sourceHz: 16e6, tolerancePpm: 50 });
    const requests = [440, 700].map((frequencyHz, at) =>
      requestOf({ kind: 'tone', target: { frequencyHz } }, at),
    );
    const found = assign(part, under, requests);
    expect(found).toMatchObject({ feasible: true, optimal: true, objective: { timers: 2 } });
    sound(requests, found, part, under);
    const drives = found.settings.map(({ drive }) => drive);
    expect(drives.filter((drive) => drive === 'pwm')).toHaveLength(1);
  });

  it('knows at once that signals of the hardware alone do not fit, whatever else there is', () => {
    const dims = Array.from({ length: 9 }, (_, at): KindAndTarget => ({
      kind: 'dim',
      target: { minHz: 50 + at, minSteps: 20 + at, duty: 0.5 },
    }));
    // Three timers have two channels each.
    const requests = dims.map((aim, at) => requestOf(aim, at));
    expect(assign(small, path, requests)).toMatchObject({ feasible: false, optimal: true, nodes: 0 });
  });
});

describe('lengths of a run that suit several signals', () => {
  it('are all there are: held against every whole length', () => {
    const band = fc
      .tuple(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 0, max: 12 }))
      .map(([low, more]) => ({ low, high: low + more }));
    fc.assert(
      fc.property(
        fc.array(band, { maxLength: 2 }),
        fc.array(band, { minLength: 1, maxLength: 3 }),
        (direct, counted) => {
          const bands = [
            ...bandsFor(
              direct,
              counted.map((one) => ({ ...one, within: (k: number) => kthOf(one, k) })),
            ),
          ];
          const suits = (run: number): boolean =>
            direct.every(({ low, high }) => run >= low && run <= high) &&
            counted.every(
              ({ low, high }) => Math.floor(high / run) * run >= low && Math.floor(high / run) >= 1,
            );
          const runs = Array.from({ length: 320 }, (_, at) => at + 1);
          expect(runs.filter((run) => bands.some(({ low, high }) => run >= low && run <= high))).toEqual(
            runs.filter(suits),
          );
        },
      ),
    );
  });
});
