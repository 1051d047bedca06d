import { exact, type Exact } from '../quantity/exact.ts';
import { printHz, printPpm } from '../quantity/print.ts';
import { divisionOf, divisionText } from '../part/division.ts';
import type {
  ClockFactor,
  ClockLimit,
  ClockNode,
  ClockSource,
  Part,
  StartStep,
  Writes,
} from '../part/types.ts';

/** The clock part of a plan: which source, how fast it is, and what the nodes of the path are set to. */
export type ClockSetting = {
  source: string;
  sourceHz: number | string;
  /** What the source is off by at most, in ppm; the part's figure where absent. */
  tolerancePpm?: number;
  /** Divider or multiplier, or the id of the clock that is taken, by node id; standard values where absent. */
  settings?: Record<string, number | string>;
};

/** A step of the path for people to read: what happens and which frequency results. */
export type ClockStep = { node: string; name: string; sign: '' | '÷' | '×' | '→'; by: number; hz: Exact };

/** A clock at a node: its frequency in Hz, its tolerance, and the steps that lead to it. */
export type Clock = {
  hz: Exact;
  tolerancePpm: number;
  steps: ClockStep[];
  /** The limit that is broken on the way; it matters only where something takes this clock. */
  fault?: ClockError;
};

/** A resolved path: the source, the clock at every node that runs, and the writes that set each node up. */
export type ClockPath = {
  source: ClockSource;
  clocks: Map<string, Clock>;
  writes: { node: ClockFactor; by: number; writes: Writes }[];
  /** What each choice takes, by ids. */
  taken: Map<string, string>;
  /** Steps that start and select clocks which are not there after reset. */
  starts: { node: string; name: string; steps: readonly StartStep[] }[];
};

/** Thrown when a clock setting is not possible on the part; `key` is the place within the setting. */
export class ClockError extends Error {
  readonly key: string;
  constructor(key: string, message: string) {
    super(message);
    this.key = key;
  }
}

function sourceOf(part: Part, id: string): ClockSource {
  const sources = part.clocks.filter((node): node is ClockSource => node.kind === 'source');
  const found = sources.find((node) => node.id === id);
  if (found) return found;
  const names = sources.map((node) => node.id).join(', ');
  throw new ClockError('source', `${part.name} has no clock source “${id}”; it has ${names}.`);
}

function checkSource(source: ClockSource, hz: Exact): void {
  if (typeof source.hz === 'number') {
    if (hz.equals(source.hz)) return;
    throw new ClockError(
      'sourceHz',
      `The ${source.name} runs at ${printHz(source.hz)}, not at ${printHz(hz.valueOf())}.`,
    );
  }
  const [min, max] = source.hz;
  if (hz.compare(exact(min)) >= 0 && hz.compare(exact(max)) <= 0) return;
  throw new ClockError(
    'sourceHz',
    `The ${source.name} may run from ${printHz(min)} to ${printHz(max)}, not at ${printHz(hz.valueOf())}.`,
  );
}

/** The limit that a clock breaks at a node, if it does. */
function brokenLimit(
  { path }: Walk,
  node: ClockNode,
  limit: ClockLimit | undefined,
  hz: Exact,
): ClockError | undefined {
  if (!limit) return undefined;
  const { name, min, max, notAbove } = limit;
  const other = notAbove === undefined ? undefined : path.clocks.get(notAbove);
  const key = `settings.${node.id}`;
  if (max !== undefined && hz.compare(exact(max)) > 0) {
    return new ClockError(key, `${name} ${printHz(hz.valueOf())} is above its ${printHz(max)}.`);
  }
  if (other && hz.compare(other.hz) > 0) {
    const [own, than] = [hz, other.hz].map((one) => printHz(one.valueOf()));
    return new ClockError(key, `${name} ${own} is above the clock “${notAbove}”, ${than}.`);
  }
  if (min !== undefined && hz.compare(exact(min)) < 0) {
    return new ClockError(key, `${name} ${printHz(hz.valueOf())} is below its ${printHz(min)}.`);
  }
  return undefined;
}

function refuseUnknown(part: Part, setting: ClockSetting): void {
  const known = part.clocks
    .filter(
      (node) =>
        node.kind === 'divider' || node.kind === 'multiplier' || (node.kind === 'choice' && node.standard),
    )
    .map((node) => node.id);
  const wrong = Object.keys(setting.settings ?? {}).find((key) => !known.includes(key));
  if (wrong === undefined) return;
  throw new ClockError(
    `settings.${wrong}`,
    `${part.name} has no clock setting “${wrong}”; it has ${known.join(', ')}.`,
  );
}

type Walk = { part: Part; setting: ClockSetting; path: ClockPath };

function inputOf({ path }: Walk, node: ClockNode, from: string): Clock | undefined {
  const clock = path.clocks.get(from);
  return clock && { ...clock, steps: [...clock.steps] };
}

function resolveChoice(walk: Walk, node: Extract<ClockNode, { kind: 'choice' }>): Clock | undefined {
  const { setting, path } = walk;
  if (node.standard === undefined) {
    if (!node.from.includes(path.source.id)) return undefined;
    path.taken.set(node.id, path.source.id);
    return inputOf(walk, node, path.source.id);
  }
  const taken = setting.settings?.[node.id] ?? node.standard;
  const key = `settings.${node.id}`;
  if (typeof taken !== 'string' || !node.from.includes(taken)) {
    throw new ClockError(key, `The ${node.name} takes ${node.from.join(', ')}, not ${taken}.`);
  }
  const clock = inputOf(walk, node, taken);
  if (!clock)
    throw new ClockError(key, `The ${node.name} takes ${taken}, which does not run with this source.`);
  const fault = clock.fault ?? brokenLimit(walk, node, node.limit, clock.hz);
  if (fault) throw fault;
  path.taken.set(node.id, taken);
  const steps = node.start?.[taken];
  if (steps) walk.path.starts.push({ node: node.id, name: node.name, steps });
  return clock;
}

function resolveFactor(walk: Walk, node: ClockFactor): Clock | undefined {
  const clock = inputOf(walk, node, node.from);
  const by = walk.setting.settings?.[node.id] ?? node.standard;
  const division = typeof by === 'number' ? divisionOf(node.by, by) : undefined;
  const verb = node.kind === 'divider' ? 'divides' : 'multiplies';
  if (!division) {
    throw new ClockError(
      `settings.${node.id}`,
      `The ${node.name} ${verb} by ${divisionText(node.by)}, not by ${by}.`,
    );
  }
  if (!clock) return undefined;
  const factor = exact(division.n).div(division.scale);
  const hz = node.kind === 'divider' ? clock.hz.div(factor) : clock.hz.mul(factor);
  const fault = clock.fault ?? brokenLimit(walk, node, node.limit, hz);
  walk.path.writes.push({ node, by: division.divide, writes: division.writes });
  const sign = node.kind === 'divider' ? '÷' : '×';
  const step: ClockStep = { node: node.id, name: node.name, sign, by: division.divide, hz };
  return { ...clock, hz, steps: [...clock.steps, step], ...(fault ? { fault } : {}) };
}

function resolveDoubler(walk: Walk, node: Extract<ClockNode, { kind: 'doubler' }>): Clock | undefined {
  const clock = inputOf(walk, node, node.from);
  const divider = walk.path.writes.find((one) => one.node.id === node.unless);
  if (!clock || !divider || divider.by === 1) return clock;
  const hz = clock.hz.mul(2);
  return { ...clock, hz, steps: [...clock.steps, { node: node.id, name: node.name, sign: '×', by: 2, hz }] };
}

function resolveFixed(walk: Walk, node: Extract<ClockNode, { kind: 'fixed' }>): Clock | undefined {
  const clock = inputOf(walk, node, node.from);
  if (!clock) return undefined;
  const hz = exact(node.hz);
  return { ...clock, hz, steps: [...clock.steps, { node: node.id, name: node.name, sign: '→', by: 0, hz }] };
}

/** What a step does, as text: "÷ 8", "→ PLL"; nothing for a step by one. */
export function stepText({ sign, by, name }: ClockStep): string[] {
  if (sign === '→') return [`→ ${name}`];
  return by === 1 ? [] : [`${sign} ${by}`];
}

/**
 * Every node's exact frequency for a clock setting: divider f_out = f_in / n, multiplier f_out = f_in x n, doubler
 * f_out = 2 f_in unless its divider is 1, a fixed PLL its own, choice f_out = f of the taken input. Nodes whose input does not run do not run.
 * @throws ClockError with the place and the limit that is broken.
 */
export function clockPath(part: Part, setting: ClockSetting): ClockPath {
  refuseUnknown(part, setting);
  const source = sourceOf(part, setting.source);
  const sourceHz = exact(setting.sourceHz);
  checkSource(source, sourceHz);
  const path: ClockPath = { source, clocks: new Map(), taken: new Map(), writes: [], starts: [] };
  const walk: Walk = { part, setting, path };
  const start = (node: ClockSource, hz: Exact, tolerancePpm: number): Clock => ({
    hz,
    tolerancePpm,
    steps: [{ node: node.id, name: node.name, sign: '', by: 1, hz }],
  });
  for (const node of part.clocks) {
    let clock: Clock | undefined;
    if (node.kind === 'source') {
      const own = node.id === source.id;
      if (own) clock = start(node, sourceHz, setting.tolerancePpm ?? node.tolerancePpm);
      else if (node.always && typeof node.hz === 'number')
        clock = start(node, exact(node.hz), node.tolerancePpm);
    } else if (node.kind === 'choice') clock = resolveChoice(walk, node);
    else if (node.kind === 'doubler') clock = resolveDoubler(walk, node);
    else if (node.kind === 'fixed') clock = resolveFixed(walk, node);
    else clock = resolveFactor(walk, node);
    if (clock) path.clocks.set(node.id, clock);
  }
  const users = [
    { user: 'The processor', node: part.cpu.clock },
    ...part.timers.map(({ name, clock }) => ({ user: name, node: clock })),
  ];
  for (const { user, node } of users) {
    const clock = path.clocks.get(node);
    if (!clock)
      throw new ClockError('source', `${user} gets no clock with the ${path.source.name} as the source.`);
    if (clock.fault) throw clock.fault;
  }
  return path;
}

/** The clock at a node: of a timer, of the CPU. @throws ClockError when that node does not run. */
export function clockAt(path: ClockPath, node: string): Clock {
  const clock = path.clocks.get(node);
  if (!clock) throw new ClockError('source', `The clock “${node}” does not run with this setting.`);
  return clock;
}

/** The frequency that feeds a timer or the CPU, in Hz. @throws ClockError when that node does not run. */
export function clockOf(path: ClockPath, node: string): Exact {
  return clockAt(path, node).hz;
}

/** The way to a node as one phrase: "8 MHz crystal ±30 ppm ÷ 8 × 336 ÷ 4 = 84 MHz". Steps by one are left out. */
export function clockPhrase(path: ClockPath, node: string): string {
  const { hz, tolerancePpm, steps } = clockAt(path, node);
  const [first, ...rest] = steps;
  if (!first) return '';
  const factors = rest.flatMap(stepText).map((text) => ` ${text}`);
  const result = factors.length > 0 ? ` = ${printHz(hz.valueOf())}` : '';
  const tolerance = printPpm(tolerancePpm).replace('+', '±').replace('exact', '±0');
  return `${printHz(first.hz.valueOf())} ${first.name} ${tolerance}${factors.join('')}${result}`;
}
