import { PLAN_VERSION } from '../../src/plan/versions.ts';
import fc from 'fast-check';
import type { Plan } from '../../src/plan/plan.ts';
import { withSettings } from '../../src/plan/edit.ts';
import { assignAll } from '../../src/resolve/assign-plan.ts';
import { codeChange, planChange, type FileChange } from '../../src/resolve/change.ts';
import { planOn, tryPart } from '../../src/resolve/compare-parts.ts';
import { partById } from '../helpers/parts.ts';
import type { Part } from '../../src/part/types.ts';

const part = partById('stm32f401') as Part;
const avr = partById('atmega328p') as Part;

const bell: Plan = {
  format: 'herzschlag-plan',
  version: PLAN_VERSION,
  name: 'Ferry bell',
  part: part.id,
  clock: part.defaultClock,
  signals: [{ id: 'bell', name: 'Bell', kind: 'tone', target: { frequencyHz: 2000 } }],
};

/** The new file's lines as its pieces tell them: outside of them both files agree. */
function rebuilt(before: string, { pieces }: FileChange): string {
  const old = before.split('\n');
  const lines: string[] = [];
  let taken = 0;
  for (const piece of pieces) {
    const first = piece.find(({ at }) => at !== undefined)?.at;
    while (first !== undefined && lines.length < first - 1) lines.push(old[taken++] ?? '');
    for (const { kind, text } of piece) {
      if (kind !== 'gone') lines.push(text);
      if (kind !== 'new') expect(old[taken++]).toBe(text);
    }
  }
  return [...lines, ...old.slice(taken)].join('\n');
}

const file = fc
  .array(fc.constantFrom('TIM3->PSC = 0u;', 'TIM3->ARR = 9u;', '}', ''), { minLength: 1, maxLength: 30 })
  .map((lines) => `${lines.join('\n')}\n`);

it('pieces of a change, put into the old file, give the new one', () => {
  fc.assert(
    fc.property(file, file, (before, after) => {
      const [change] = codeChange([{ name: 'a.c', text: before }], [{ name: 'a.c', text: after }]);
      if (!change) expect(before).toBe(after);
      else expect(rebuilt(before, change)).toBe(after);
    }),
  );
});

it('only what changes is told: a tone an octave up is a new top and compare, and what is said of them', () => {
  const low = withSettings(bell, assignAll(bell, part).settings);
  const signal = { ...low.signals[0]!, target: { frequencyHz: 4000 } } as Plan['signals'][number];
  const high = withSettings(
    { ...low, signals: [signal] },
    assignAll({ ...low, signals: [signal] }, part).settings,
  );
  const { code, places, noCode } = planChange(low, part, high, part);
  expect(noCode).toBeUndefined();
  expect(places[0]?.before).toBe(places[0]?.after);
  const lines = code.flatMap(({ pieces }) => pieces.flat());
  expect(lines.some(({ kind, text }) => kind === 'new' && /ARR/.test(text))).toBe(true);
  expect(planChange(low, part, low, part).code).toEqual([]);
});

it('a plan on another part: every signal’s place before and after, and registers of the other part', () => {
  const trial = tryPart(bell, avr, avr.defaultClock);
  const moved = planOn(bell, avr, trial!);
  const here = withSettings(bell, assignAll(bell, part).settings);
  const { code, places } = planChange(here, part, moved, avr);
  expect(places).toHaveLength(1);
  expect(places[0]?.before).toMatch(/^TIM/);
  expect(places[0]?.after).toMatch(/ on P[BD]/);
  const added = code.flatMap(({ pieces }) => pieces.flat()).filter(({ kind }) => kind === 'new');
  expect(added.some(({ text }) => /TCCR\d[AB]/.test(text))).toBe(true);
});

it('says why there is no code where settings are in conflict', () => {
  const both = withSettings(bell, assignAll(bell, part).settings);
  const twice = {
    ...both,
    signals: [
      both.signals[0]!,
      { ...both.signals[0]!, id: 'gong', name: 'Gong', target: { frequencyHz: 1000 } },
    ],
  } as Plan;
  const setting = assignAll({ ...bell, signals: [twice.signals[1]!] }, part).settings[0]!.setting;
  twice.signals[1] = { ...twice.signals[1]!, setting };
  const { noCode, code } = planChange(twice, part, both, part);
  expect(noCode?.before).toMatch(/Bell.*Gong|Gong.*Bell/);
  expect(code.every(({ gone }) => gone === 0)).toBe(true);
});
