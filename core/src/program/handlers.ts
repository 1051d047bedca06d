import { modeOf, timerOf } from '../part/find.ts';
import type { Interrupt, Part } from '../part/types.ts';
import { driveOf } from '../timer/drives/index.ts';
import { hasTimer, type TimerSetting } from '../timer/setting.ts';
import { actionStates, actionSteps } from './actions.ts';
import { allKnobStates } from './knob-states.ts';
import { allMovingStates } from './moving.ts';
import { identifier, labelsOf } from './names.ts';
import { followedSteps, outputTick, sequenceStates } from './sequence.ts';
import type { ProgramSignal } from './signal.ts';
import type { AtFlag, Handler, State, Step, Value } from './step.ts';

/** The interrupts that a signal uses: those that make its edges, and the one that counts periods of its sequence. */
export function interruptsInCode(part: Part, { setting, sequence }: ProgramSignal): Interrupt[] {
  const own = driveOf(setting)
    .handlers(part, setting)
    .map(({ interrupt }) => interrupt);
  return sequence?.tick ? [...own, sequence.tick] : own;
}

/** What a handler does first for the counter: adds the reload value, or moves the match on. */
function keepRunning(part: Part, setting: TimerSetting): Step[] {
  const timer = timerOf(part, setting.timer);
  const { top } = modeOf(timer, setting.mode);
  if (top.kind !== 'moved' && top.kind !== 'reload') return [];
  const reload = 2 ** timer.width - (setting.top + 1);
  if (top.kind === 'reload' && top.bytes) return [{ do: 'reload', timer: timer.id, ...top.bytes, reload }];
  const value = top.kind === 'moved' ? setting.top + 1 : reload;
  const moved = Object.keys(top.writes).map((register): Step => ({
    do: 'load',
    register,
    value,
    adds: true,
  }));
  const [register] = Object.keys(top.writes);
  if (top.kind !== 'moved' || timer.counter === undefined || register === undefined) return moved;
  return [
    ...moved,
    { do: 'say', text: 'A match that the counter has passed would come after all of its counts only.' },
    { do: 'while', test: hasPassed(timer.counter, register, timer.width), steps: moved },
  ];
}

/** Whether a free counter has passed a match, which lies less than half of its counts behind it. */
function hasPassed(counter: string, match: string, width: number): Value {
  const behind: Value = { left: { register: counter }, op: '-', right: { register: match } };
  return { left: { as: 'uint32_t', value: behind }, op: '<', right: 2 ** (width - 1) };
}

/** By vector and flag, what the handlers do. */
export function handlersOf(part: Part, signals: readonly ProgramSignal[]): Handler[] {
  const labels = labelsOf(signals);
  const vectors = new Map<string, Map<string, AtFlag>>();
  const atFlag = (interrupt: Interrupt, first: readonly Step[]): Step[] => {
    const flags = vectors.get(interrupt.vector) ?? new Map<string, AtFlag>();
    vectors.set(interrupt.vector, flags);
    const own = flags.get(interrupt.flag) ?? { interrupt, steps: [...first] };
    flags.set(interrupt.flag, own);
    return own.steps;
  };
  signals.forEach(({ name, setting, sequence }, at) => {
    const label = labels[at] ?? identifier(name);
    for (const { interrupt, keepsRunning, actions } of driveOf(setting).handlers(part, setting)) {
      const runs = keepsRunning && hasTimer(setting) ? keepRunning(part, setting) : [];
      const steps = atFlag(interrupt, [{ do: 'clear', interrupt }, ...runs]);
      steps.push(
        ...(sequence && hasTimer(setting)
          ? followedSteps(part, { label, setting, sequence }, actions)
          : actions.flatMap((action) => actionSteps(part, label, action))),
      );
    }
    if (!sequence?.tick || !hasTimer(setting)) return;
    const { tick } = sequence;
    atFlag(tick, [{ do: 'clear', interrupt: tick }]).push(...outputTick({ label, setting, sequence }));
  });
  return [...vectors].map(([vector, flags]) => ({ vector, flags: [...flags.values()] }));
}

/** What the program keeps: its handlers from one interrupt to the next, knobs from one reading to the next, setters from one call to the next. */
export function statesOf(part: Part, signals: readonly ProgramSignal[]): State[] {
  const labels = labelsOf(signals);
  const ofHandlers = signals.flatMap(({ name, setting, sequence }, at) => {
    const label = labels[at] ?? identifier(name);
    const states = driveOf(setting)
      .handlers(part, setting)
      .flatMap(({ actions }) => actions)
      .flatMap((action) => actionStates(label, action));
    return sequence && hasTimer(setting) ? sequenceStates(label, sequence, states) : states;
  });
  return [...ofHandlers, ...allKnobStates(part, signals, labels), ...allMovingStates(part, signals, labels)];
}

/** Steps that put back what is kept, so that starting begins anew. */
export function resetSteps(part: Part, signals: readonly ProgramSignal[]): Step[] {
  return statesOf(part, signals).map(({ kept, type, initial }) => ({
    do: 'set',
    to: { kept, type },
    value: initial,
  }));
}
