import { optionsOf } from '../../src/assign/request.ts';
import { clockPath } from '../../src/clock/path.ts';
import { signalFit } from '../../src/evaluate/choose.ts';
import { evaluatePlan } from '../../src/evaluate/evaluate.ts';
import { loadKinds, loadModel, registerLoad } from '../../src/load/index.ts';
import type { Part } from '../../src/part/types.ts';
import { checkPlan } from '../../src/plan/check-plan.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { firstKnob, firstReadings } from '../../src/plan/starters.ts';
import { requestOf } from '../../src/resolve/assign-plan.ts';
import { editToken } from '../../src/signal/edit.ts';
import { allKinds, kindOf, registerKind } from '../../src/signal/kinds/index.ts';
import { requirementOf } from '../../src/signal/requirement-of.ts';
import { sentenceOf } from '../../src/signal/sentence.ts';
import { readWish } from '../../src/signal/wish/read.ts';
import { allDrives, registerDrive } from '../../src/timer/drives/index.ts';
import { hasTimer, type Setting } from '../../src/timer/setting.ts';
import { readPart, writePart } from '../../src/timer/part-file.ts';
import { PARTS, shipped } from '../helpers/parts.ts';
import { planOn } from '../helpers/plan.ts';
import { hasItsFields, passesThroughEverything, starterPlan, wantsPin, withSetting } from './contract.ts';
import { everySecond } from './made-up/drive.ts';
import { flicker } from './made-up/kind.ts';
import { relay } from './made-up/load.ts';
import { quill8 } from './made-up/part.ts';

// The made-up records are registered like those that are shipped, and pass what they pass.
const takeAway = [registerKind(flicker), registerDrive(everySecond), registerLoad(relay)];
const KINDS = allKinds();
const DRIVES = allDrives();
const LOADS = loadKinds();
const ALL_PARTS: readonly Part[] = [...PARTS, quill8];
const avr = shipped('atmega328p');
const stm32 = shipped('stm32f401');

/** The best setting of a drive for some signal on some part; the first that there is. */
function exampleOf(drive: string): { plan: Plan; part: Part; setting: Setting } | undefined {
  for (const part of [avr, stm32, shipped('pic18f4620')]) {
    const path = clockPath(part, part.defaultClock);
    for (const kind of KINDS) {
      const plan = starterPlan(part, kind);
      const [signal] = plan.signals;
      const fit = signal && signalFit(part, path, signal, 'all', new Set());
      const found = fit?.candidates.find(({ setting }) => setting.drive === drive);
      if (found) return { plan: withSetting(plan, found.setting), part, setting: found.setting };
    }
  }
  return undefined;
}

it('there is something of each sort', () => {
  expect([KINDS, DRIVES, LOADS, ALL_PARTS].map(({ length }) => length)).toEqual([11, 9, 10, 14]);
  expect(KINDS.map(({ id }) => id)).toContain('flicker');
  expect(DRIVES.map(({ id }) => id)).toContain('every-second');
  expect(LOADS.map(({ id }) => id as string)).toContain('relay');
});

describe.each(KINDS.map((kind) => [kind.id, kind] as const))('the kind %s', (_, kind) => {
  it.each([avr, stm32].map((part) => [part.id, part] as const))(
    'passes through everything on %s',
    (__, part) => {
      passesThroughEverything(starterPlan(part, kind), part);
    },
  );

  it('has a target that its own shape allows, and tokens of fields that it has', () => {
    const plan = starterPlan(avr, kind);
    expect(checkPlan(JSON.parse(JSON.stringify(plan)), [avr])).toMatchObject({ ok: true });
    for (const token of Object.values(kind.tokens)) {
      if (token.field !== undefined) expect(Object.keys(kind.shape)).toContain(token.field);
    }
    const [signal] = plan.signals;
    const pieces = sentenceOf(signal as PlanSignal);
    const tokens = pieces.flatMap((piece) => ('token' in piece ? [piece] : []));
    expect(tokens.length).toBeGreaterThan(0);
    // What a token shows is what may be typed into it.
    for (const { token, text, dimension } of tokens) {
      if (dimension === 'name' || dimension === 'pin') continue;
      expect([token, editToken(signal as PlanSignal, token, text, {})]).toMatchObject([token, { ok: true }]);
    }
  });

  it('says what a knob and readings of it begin with, or has none', () => {
    const [signal] = starterPlan(avr, kind).signals;
    const knob = firstKnob(signal as PlanSignal, 100);
    expect(knob === undefined).toBe(kind.knob === undefined);
    if (knob) expect(knob.from).toBeLessThan(knob.to);
    expect(firstReadings(signal as PlanSignal) === undefined).toBe(kind.readings === undefined);
    // Only an output has something to move, to read off, or to hang on its pin.
    if (kind.on !== 'output')
      expect([kind.knob, kind.readings, kind.purpose]).toEqual([undefined, undefined, undefined]);
    else expect(LOADS.some(({ suits }) => kind.purpose && suits.includes(kind.purpose))).toBe(true);
  });

  it('is what its own words ask for, where it reads any', () => {
    const { readings } = readWish(kind.starter.text, { pins: [] });
    const found = readings.map(({ signal }) => signal.kind as string).includes(kind.id);
    expect(found).toBe(kind.wish.read !== undefined);
  });
});

describe.each(DRIVES.map((drive) => [drive.id, drive] as const))('the drive %s', (id, drive) => {
  const example = exampleOf(id);

  it('makes some signal, which passes through everything', () => {
    expect(example).toBeDefined();
    if (!example) return;
    const { plan, part, setting } = example;
    hasItsFields(plan, part, setting);
    passesThroughEverything(plan, part);
    expect(evaluatePlan(plan, part).signals[0]).toMatchObject({ verdict: 'pass' });
  });

  it('is offered by assignment where it takes a timer, in the very place that fit proposes', () => {
    if (!example) throw new Error('no example');
    const { plan, part, setting } = example;
    const [signal] = plan.signals as [PlanSignal];
    const path = clockPath(part, plan.clock);
    expect(drive.canMeet(requirementOf(signal))).toBe(true);
    expect(drive.places !== undefined).toBe(hasTimer(setting));
    if (!hasTimer(setting)) return;
    const request = requestOf(part, path, { ...signal, setting: undefined });
    const options = optionsOf(part, path, request, new Set());
    const own = options.filter(
      (one) => one.drive === id && one.timer.id === setting.timer && one.mode.id === setting.mode,
    );
    const channel = 'channel' in setting ? setting.channel : undefined;
    const places = own.flatMap((one) => one.places);
    expect(places.some((place) => place.pin === setting.pin && place.channel === channel)).toBe(true);
  });
});

describe.each(LOADS.map((load) => [load.id as string, load] as const))('the load %s', (id, load) => {
  const { demo, starter } = load;
  const signal = { id: 'one', name: load.name, ...demo, load: starter } as unknown as PlanSignal;

  it('passes through everything on its demo', () => {
    expect(wantsPin(demo.kind)).toBe(true);
    const plan = planOn(stm32, signal);
    passesThroughEverything(plan, stm32);
    const [evaluated] = evaluatePlan(plan, stm32).signals;
    expect(evaluated?.outcome?.load).toMatchObject({
      headline: expect.stringMatching(/./) as string,
      picture: { kind: expect.any(String) as string },
    });
    expect(structuredClone(evaluated?.outcome?.load)).toEqual(evaluated?.outcome?.load);
  });

  it('suits what its demo is made for, and is among the first that are offered there', () => {
    const { purpose } = kindOf(signal);
    expect(purpose).toBeDefined();
    const offered = loadKinds(purpose);
    const suited = offered.filter(({ suits }) => purpose !== undefined && suits.includes(purpose));
    expect(suited.map((one) => one.id as string)).toContain(id);
    expect(offered.slice(0, suited.length)).toEqual(suited);
  });

  it('is refused without a field that it requires, and with one that it does not have', () => {
    const required = Object.entries(load.fields).filter(([, field]) => !field.optional);
    for (const [key] of required) {
      const less = Object.fromEntries(Object.entries(starter).filter(([one]) => one !== key));
      const plan = planOn(stm32, { ...signal, load: less } as unknown as PlanSignal);
      expect(checkPlan(plan, [stm32])).toMatchObject({
        ok: false,
        fault: { path: `signals[0].load.${key}` },
      });
    }
    const more = planOn(stm32, { ...signal, load: { ...starter, colour: 1 } } as unknown as PlanSignal);
    expect(checkPlan(more, [stm32])).toMatchObject({ ok: false, fault: { path: 'signals[0].load.colour' } });
    expect(loadModel({ type: id }).id).toBe(id);
  });
});

// `part/facts.test.ts` takes each shipped part through its file.
it('the made-up part survives its file', () => {
  const value = JSON.parse(JSON.stringify(quill8)) as Part;
  expect(readPart(writePart(quill8))).toEqual({ ok: true, value });
});

describe.each(ALL_PARTS.map((part) => [part.id, part] as const))('the part %s', (_, part) => {
  it('takes some signal of each kind through everything', () => {
    for (const kind of KINDS) passesThroughEverything(starterPlan(part, kind), part);
  });
});

afterAll(() => {
  takeAway.forEach((undo) => undo());
  const stored = starterPlan(avr, flicker);
  expect(checkPlan(stored, [avr])).toMatchObject({ ok: false, fault: { path: 'signals[0].kind' } });
});
