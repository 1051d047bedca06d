import { exact, exactText, type Exact } from '../quantity/exact.ts';
import { printHz, printPpm } from '../quantity/print.ts';
import type { ClockDivider, ClockNode, ClockSource, Part } from '../part/schema.ts';

/** The clock part of a plan: which source, how fast it is, and what the dividers of the path are set to. */
export type ClockSetting = {
  source: string;
  sourceHz: number | string;
  /** What the source is off by at most, in ppm; the part's figure where absent. */
  tolerancePpm?: number;
  /** Divider by node id; a node that is not named stands at its standard value. */
  settings?: Record<string, number>;
};

/** A step of the path for people to read: what happens and which frequency results. */
export type ClockStep = { node: string; name: string; divide: number; hz: Exact };

/** A resolved path: every node's frequency in Hz, the tolerance of them all, and the steps from source to node. */
export type ClockPath = {
  source: ClockSource;
  tolerancePpm: number;
  hz: Map<string, Exact>;
  steps: ClockStep[];
  dividers: { node: ClockDivider; divide: number }[];
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
  const [least, most] = source.hz;
  if (hz.compare(least) >= 0 && hz.compare(most) <= 0) return;
  throw new ClockError(
    'sourceHz',
    `The ${source.name} may run from ${printHz(least)} to ${printHz(most)}, not at ${printHz(hz.valueOf())}.`,
  );
}

function divideOf(node: ClockDivider, setting: ClockSetting): number {
  const divide = setting.settings?.[node.id] ?? node.standard;
  if (node.options.some((option) => option.divide === divide)) return divide;
  const options = node.options.map((option) => option.divide).join(', ');
  throw new ClockError(`settings.${node.id}`, `The ${node.name} divides by ${options}, not by ${divide}.`);
}

function refuseUnknown(part: Part, setting: ClockSetting): void {
  const known = part.clocks.filter((node) => node.kind === 'divider').map((node) => node.id);
  const wrong = Object.keys(setting.settings ?? {}).find((key) => !known.includes(key));
  if (wrong === undefined) return;
  throw new ClockError(
    `settings.${wrong}`,
    `${part.name} has no clock setting “${wrong}”; it has ${known.join(', ')}.`,
  );
}

/**
 * Every node's exact frequency for a clock setting: divider f_out = f_in / divide, choice f_out = f of the taken input.
 * The nodes stand in the part in the order of the path. @throws ClockError with the place and the limit that is broken.
 */
export function clockPath(part: Part, setting: ClockSetting): ClockPath {
  refuseUnknown(part, setting);
  const source = sourceOf(part, setting.source);
  const sourceHz = exact(setting.sourceHz);
  checkSource(source, sourceHz);
  const hz = new Map<string, Exact>([[source.id, sourceHz]]);
  const steps: ClockStep[] = [{ node: source.id, name: source.name, divide: 1, hz: sourceHz }];
  const dividers: ClockPath['dividers'] = [];
  const input = (node: ClockNode, from: string): Exact => {
    const found = hz.get(from);
    if (!found) throw new ClockError('source', `${node.name} is fed by ${from}, which does not run.`);
    return found;
  };
  for (const node of part.clocks) {
    if (node.kind === 'choice' && node.from.includes(source.id)) hz.set(node.id, input(node, source.id));
    if (node.kind === 'divider') {
      const divide = divideOf(node, setting);
      const result = input(node, node.from).div(divide);
      hz.set(node.id, result);
      dividers.push({ node, divide });
      steps.push({ node: node.id, name: node.name, divide, hz: result });
    }
  }
  return { source, tolerancePpm: setting.tolerancePpm ?? source.tolerancePpm, hz, steps, dividers };
}

/** The frequency that feeds a timer or the CPU, in Hz. @throws ClockError when that node does not run. */
export function clockOf(path: ClockPath, node: string): Exact {
  const hz = path.hz.get(node);
  if (!hz) throw new ClockError('source', `The clock “${node}” does not run with this setting.`);
  return hz;
}

/** The path as one phrase: "16 MHz crystal ±50 ppm ÷ 8 = 2 MHz". */
export function clockPhrase(path: ClockPath): string {
  const first = path.steps[0];
  const last = path.steps[path.steps.length - 1];
  if (!first || !last) return '';
  const divisions = path.steps.filter((step) => step.divide !== 1).map((step) => ` ÷ ${step.divide}`);
  const result = divisions.length > 0 ? ` = ${printHz(last.hz.valueOf())}` : '';
  const tolerance = printPpm(path.tolerancePpm).replace('+', '±').replace('exact', '±0');
  return `${printHz(first.hz.valueOf())} ${path.source.name} ${tolerance}${divisions.join('')}${result}`;
}

/** A node's frequency as exact text, for output that must not round. */
export function clockText(path: ClockPath, node: string): string {
  return exactText(clockOf(path, node));
}
