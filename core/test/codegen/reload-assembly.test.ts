import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import { planCode } from '../../src/evaluate/code.ts';
import { clockOf, clockPath } from '../../src/clock/path.ts';
import { modeOf, registerOf, timerOf } from '../../src/part/find.ts';
import type { Part } from '../../src/part/types.ts';
import type { Plan, PlanSignal } from '../../src/plan/plan.ts';
import { outcomeUnder } from '../../src/timer/drives/index.ts';
import { reloadLatency, runTicks } from '../../src/timer/run.ts';
import type { InterruptSetting } from '../../src/timer/setting.ts';
import { shipped } from '../helpers/parts.ts';
import { assembled, cyclesOfRun, type CountedTimer } from '../helpers/pic.ts';

const SEED = 90_411;

function settingOf(timer: string, prescaler: number, top: number): InterruptSetting {
  return { drive: 'interrupt', timer, mode: 'reload', prescaler, top, divider: 1 };
}

function filesOf(part: Part, ...settings: InterruptSetting[]): { name: string; text: string }[] {
  const signals = settings.map((setting, at): PlanSignal => ({
    ...{ id: `gate${at}`, name: `Gate ${at}`, kind: 'tick', target: { frequencyHz: 250 } },
    setting,
  }));
  const plan: Plan = {
    ...{
      format: 'herzschlag-plan',
      version: PLAN_VERSION,
      name: 'Sluice',
      part: part.id,
      clock: part.defaultClock,
    },
    signals,
  };
  return planCode(plan, part, { failing: true }).files;
}

function assemblyOf(part: Part, ...settings: InterruptSetting[]): string {
  return filesOf(part, ...settings).find(({ name }) => name === 'sluice_reload.asm')?.text ?? '';
}

/** A timer of a part as a machine counts it. */
function countedTimer(part: Part, timer: string, divide: number): CountedTimer {
  const { top } = modeOf(timerOf(part, timer), 'reload');
  if (top.kind !== 'reload' || !top.bytes) throw new Error(`${timer} is not reloaded in bytes`);
  const [lower, upper] = [top.bytes.lower, top.bytes.upper].map((name) => registerOf(part, name).address);
  return { lower: lower ?? 0, upper: upper ?? 0, divide, buffered: timer === 'TMR0' };
}

it('waits while the lower byte is within 13 counts of its end, 8 with a prescaler of 2', () => {
  const lines = (divide: number): string[] =>
    assemblyOf(shipped('pic18f4620'), settingOf('TMR3', divide, 7990)).split('\n');
  const looks = (divide: number): string[] => {
    const all = lines(divide).map((line) => line.trim());
    const from = all.indexOf('looktmr3');
    return all.slice(from, from + 6);
  };
  expect(looks(1)).toEqual([
    'looktmr3',
    'movf TMR3L, W, ACCESS',
    'addlw 0x0D',
    'btfsc STATUS, 0, ACCESS',
    'bra looktmr3',
    'movf TMR3L, W, ACCESS',
  ]);
  expect(looks(2)[2]).toBe('addlw 0x08');
});

it('adds 65536 - 7991 = 0xE0C9 in nine instructions from the read of the lower byte through its write', () => {
  const lines = assemblyOf(shipped('pic16f684'), settingOf('TMR1', 1, 7990)).split('\n');
  const from = lines.findIndex((line) => line.includes('movwf lower_tmr1')) - 2;
  expect(lines.slice(from, from + 10).map((line) => line.trim())).toEqual([
    'movf TMR1L, W',
    'addlw 0xC9',
    'movwf lower_tmr1',
    'movlw 0xE0',
    // Skipped or not, both take as long.
    'btfsc STATUS, 0',
    'movlw 0xE1',
    'addwf TMR1H, F',
    'movf lower_tmr1, W',
    'movwf TMR1L',
    'return',
  ]);
});

it('the handler calls it, unless the C is asked for', () => {
  const [source, header] = filesOf(shipped('pic18f4620'), settingOf('TMR1', 1, 7990)).map(({ text }) => text);
  expect(source).toMatch(/#ifdef RELOAD_IN_C\n(?:.*\n)*? *#else\n *reload_tmr1\(\);\n *#endif/);
  expect(header).toContain('void reload_tmr1(void);');
});

it('is not there where nothing is reloaded byte by byte', () => {
  const part = shipped('pic16f684');
  const names = filesOf(part, settingOf('TMR0', 16, 200)).map(({ name }) => name);
  expect(names).not.toContain('sluice_reload.asm');
});

it.each([
  ['pic16f684', 'TMR1'],
  ['pic16f18875', 'TMR1'],
  ['pic16f18875', 'TMR5'],
  ['pic18f4620', 'TMR1'],
  ['pic18f4620', 'TMR3'],
  ['pic18f4620', 'TMR0'],
])('assembled for %s, each run of %s takes the cycles that the figures count', (id, timer) => {
  const part = shipped(id);
  const { assembly } = part.code;
  if (!assembly) throw new Error(`${id} has no assembler`);
  const mode = modeOf(timerOf(part, timer), 'reload');
  const label = `_reload_${timer.toLowerCase()}`;
  const path = clockPath(part, part.defaultClock);
  fc.assert(
    fc.property(
      fc.integer({ min: 400, max: 65_535 }),
      fc.constantFrom(1, 2, 4, 8),
      fc.array(fc.integer({ min: 4, max: 120 }), { minLength: 8, maxLength: 8 }),
      (top, divide, delays) => {
        const setting = settingOf(timer, divide, top);
        const linked = assembled(assemblyOf(part, setting));
        const counted = countedTimer(part, timer, divide);
        // The lower byte passes its end between the reads and writes of the two, unless that is seen to.
        const near = [244, 247, 248, 251, 254, 255].map((count) => count * divide + 1);
        for (const late of [...delays, ...near, reloadLatency(part.cpu)]) {
          const { run, readAt } = cyclesOfRun(assembly.family, linked, label, counted, late);
          const wanted = runTicks(mode, divide, 1, top, readAt);
          expect([top, divide, late, run]).toEqual([top, divide, late, wanted]);
        }
        // As late as the figures take the read to be, it is the frequency that they tell.
        const runs = [0, 1, 2, 3, 4, 5, 6].map((late) =>
          cyclesOfRun(assembly.family, linked, label, counted, late),
        );
        const run = runs.find(({ readAt }) => readAt === reloadLatency(part.cpu))?.run ?? 0;
        const told = outcomeUnder(part, path, setting).frequency;
        expect(told.mul(run).equals(clockOf(path, timerOf(part, timer).clock))).toBe(true);
      },
    ),
    { numRuns: 6, seed: SEED },
  );
});

it('has a function for each of several counters', () => {
  const part = shipped('pic18f4620');
  const text = assemblyOf(part, settingOf('TMR1', 1, 7990), settingOf('TMR3', 2, 30_000));
  expect([...assembled(text).labels.keys()].sort()).toEqual(['_reload_tmr1', '_reload_tmr3']);
});
