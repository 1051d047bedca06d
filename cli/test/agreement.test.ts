import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import {
  PLAN_VERSION,
  bestSetting,
  clockPath,
  CodeError,
  decodeText,
  evaluatePlan,
  fetchParts,
  fetchTrust,
  type Evaluation,
  isInput,
  isOutput,
  type Part,
  planCode,
  planWaveforms,
  type Plan,
  type PlanSignal,
  sameSetting,
  waveformSource,
  writePlan,
} from '@herzschlag/core';
import { checkCommand } from '../src/run/check.ts';
import { codeCommand } from '../src/run/code.ts';
import { fitCommand } from '../src/run/fit.ts';

const RUNS = 300;
const SEED = 20251;

const PART_IDS = ['atmega328p', 'attiny85', 'pic16f684', 'samd21g18', 'rp2040', 'atmega2560'];

const TARGETS: readonly Pick<PlanSignal, 'kind' | 'target'>[] = [
  { kind: 'blink', target: { frequencyHz: 2, duty: 0.25 } },
  { kind: 'blink', target: { periodS: 0.5, onS: 0.1, frequencyTolerancePpm: 200 } },
  { kind: 'tone', target: { note: 'A5', toleranceCents: 8 } },
  { kind: 'tone', target: { frequencyHz: 3000 } },
  { kind: 'dim', target: { minHz: 200, minSteps: 200, duty: 0.4 } },
  { kind: 'pulse', target: { frameHz: 50, widthS: 0.0015 } },
  { kind: 'strobe', target: { rpm: 900, images: 2, duty: 0.05 } },
  { kind: 'tick', target: { frequencyHz: 1000 } },
  { kind: 'measure', target: { minHz: 40, maxHz: 400, resolution: 0.01 } },
] as Pick<PlanSignal, 'kind' | 'target'>[];

let PARTS: Part[] = [];
beforeAll(async () => {
  PARTS = await fetchParts();
});

type Drawn = { part: number; signals: { target: number; set: boolean; pin: boolean }[] };

const drawn: fc.Arbitrary<Drawn> = fc.record({
  part: fc.nat(PART_IDS.length - 1),
  signals: fc.array(fc.record({ target: fc.nat(TARGETS.length - 1), set: fc.boolean(), pin: fc.boolean() }), {
    minLength: 1,
    maxLength: 3,
  }),
});

/** A plan with settings that were each chosen alone, so that some are in conflict, and signals without one. */
function planOf({ part: at, signals }: Drawn): { plan: Plan; part: Part } {
  const part = PARTS.find(({ id }) => id === PART_IDS[at]) as Part;
  const bare: Plan = {
    format: 'herzschlag-plan',
    version: PLAN_VERSION,
    name: 'Random',
    part: part.id,
    clock: part.defaultClock,
    signals: [],
  };
  const own = signals.map(({ target, set, pin }, index): PlanSignal => {
    const signal = { id: `s${index}`, name: `S${index}`, ...TARGETS[target] } as PlanSignal;
    const setting = set ? bestSetting({ ...bare, signals: [signal] }, part, signal, 'cpu') : undefined;
    return {
      ...signal,
      ...(setting ? { setting } : {}),
      ...(pin && setting?.pin !== undefined ? { pin: setting.pin } : {}),
    };
  });
  return { plan: { ...bare, signals: own }, part };
}

/** Rising edges that the waveform of a signal has in some whole periods, far from its start. */
function agreesWithWaveform(plan: Plan, part: Part, { signals }: Evaluation): void {
  const lanes = planWaveforms(plan, part);
  for (const { signal, outcome } of signals) {
    const lane = lanes.find((one) => one.signal === signal.id);
    expect(lane !== undefined).toBe(outcome !== undefined && !isInput(outcome.setting));
    if (!lane || !outcome || outcome.wave.level !== undefined) continue;
    const source = waveformSource(lane.waveform, lane.tickHz);
    const from = 100 / outcome.frequencyHz;
    const edges = source.count(from, from + 50 / outcome.frequencyHz);
    expect(Math.abs(edges - 100)).toBeLessThanOrEqual(1);
  }
}

/** The registers, given to the decoder as text, make the frequency that the evaluation says. */
function agreesWithDecoder(plan: Plan, part: Part, { signals, registers }: Evaluation): void {
  if (registers.length === 0) return;
  const text = registers.map(({ name, value }) => `${name} = ${value};`).join('\n');
  const read = decodeText(part, clockPath(part, plan.clock), text);
  if (!read.ok) throw new Error(read.fault.sentence);
  const effects = read.value.timers.flatMap((timer) => timer.effects);
  for (const { outcome } of signals) {
    if (!outcome || !isOutput(outcome.setting)) continue;
    const { setting, frequencyHz } = outcome;
    const made = effects.filter((effect) => effect.setting.pin === setting.pin && isOutput(effect.setting));
    expect(made.map((effect) => effect.outcome.frequency.valueOf())).toContainEqual(
      expect.closeTo(frequencyHz, 6) as unknown,
    );
  }
}

describe('views, commands and code', () => {
  let directory: string;
  beforeAll(() => {
    directory = mkdtempSync(join(tmpdir(), 'agreement-'));
  });
  afterAll(() => rmSync(directory, { recursive: true, force: true }));

  it(`agree on every setting, check and conflict of ${RUNS} random plans (seed ${SEED})`, async () => {
    const seen = { conflicts: 0, proposed: 0, unable: 0, decoded: 0 };
    await fc.assert(
      fc.asyncProperty(drawn, async (one) => {
        const { plan, part } = planOf(one);
        const file = join(directory, 'random.plan.json');
        writeFileSync(file, writePlan(plan));
        const evaluation = evaluatePlan(plan, part);
        const { signals, conflicts, registers } = evaluation;
        seen.conflicts += conflicts.length;
        seen.proposed += signals.filter(({ proposed, outcome }) => proposed && outcome).length;
        seen.unable += signals.filter(({ outcome }) => !outcome).length;

        const { text, fails } = await checkCommand(file, { as: [] });
        const checked = JSON.parse(text) as {
          checks: { signal: string; property: string; verdict: string }[];
          conflicts: { sentence: string }[];
        };
        expect(checked.conflicts.map(({ sentence }) => sentence)).toEqual(
          conflicts.map(({ sentence }) => sentence),
        );
        expect(checked.checks.map((row) => `${row.signal} ${row.property} ${row.verdict}`)).toEqual(
          signals.flatMap(({ signal, outcome }) =>
            (outcome?.checks ?? [{ property: 'setting', verdict: 'fail' }]).map(
              ({ property, verdict }) => `${signal.id} ${property} ${verdict}`,
            ),
          ),
        );
        expect(fails).toBe(signals.some(({ verdict }) => verdict === 'fail'));

        // What is chosen stays chosen; a proposal is what the code is made of, so that choosing it changes nothing.
        const settled: Plan = {
          ...plan,
          signals: signals.map(({ signal, outcome }) => ({
            ...signal,
            ...(outcome ? { setting: outcome.setting } : {}),
          })),
        };
        plan.signals.forEach(({ setting }, at) => {
          const used = signals[at]?.outcome?.setting;
          if (setting) expect(used && sameSetting(setting, used)).toBe(true);
        });
        agreesWithWaveform(plan, part, evaluation);
        if (conflicts.length > 0) {
          expect(() => planCode(plan, part)).toThrow(CodeError);
          await expect(codeCommand(file, directory)).rejects.toThrow();
          expect(registers).toEqual([]);
          return;
        }
        if (evaluation.failures.length > 0) {
          expect(() => planCode(plan, part)).toThrow(CodeError);
        } else {
          const { unverified } = await fetchTrust(part);
          const files = planCode(plan, part, { unverified }).files;
          expect(planCode(settled, part, { unverified }).files).toEqual(files);
          const out = join(directory, 'code');
          await codeCommand(file, out);
          for (const { name, text: code } of files) expect(readFileSync(join(out, name), 'utf8')).toBe(code);
          for (const name of readdirSync(out)) rmSync(join(out, name));
        }
        agreesWithDecoder(plan, part, evaluation);
        seen.decoded += 1;
        if (plan.signals.length === 1 && !plan.signals[0]?.setting && signals[0]?.outcome) {
          const fit = JSON.parse(await fitCommand(file, { limit: 1, rank: 'cpu' })) as {
            signals: { candidates: { frequencyExact: string; drive: string }[] }[];
          };
          const { frequencyExact, setting } = signals[0].outcome;
          expect(fit.signals[0]?.candidates[0]).toMatchObject({ frequencyExact, drive: setting.drive });
        }
      }),
      { numRuns: RUNS, seed: SEED },
    );
    expect(seen.conflicts).toBeGreaterThan(20);
    expect(seen.proposed).toBeGreaterThan(100);
    expect(seen.decoded).toBeGreaterThan(100);
  }, 600000);
});
