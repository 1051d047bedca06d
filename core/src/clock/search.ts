import type { ClockLimit, ClockNode, Part, Prescaler } from '../part/types.ts';
import { exact, type Exact } from '../quantity/exact.ts';
import { ClockError, clockAt, clockPath, type ClockSetting } from './path.ts';

/** A legal clock setting and what the wanted node runs at with it. */
export type ClockFind = { setting: ClockSetting; hz: Exact; errorPpm: number };

/** How many of the nearest combinations are checked against every limit of the part. */
const CHECKED = 400;

type Combination = { error: number; changes: number; settings: Record<string, number | string> };

function values(by: Prescaler): number[] {
  if (by.kind === 'list') return by.options.map((option) => option.divide);
  return Array.from({ length: by.max - by.min + 1 }, (_, at) => (by.min + at) / by.scale);
}

function breaks(limit: ClockLimit | undefined, hz: number, running: ReadonlyMap<string, number>): boolean {
  if (!limit) return false;
  const { min = 0, max = Infinity, notAbove } = limit;
  const other = notAbove === undefined ? undefined : running.get(notAbove);
  return hz > max || hz < min || (other !== undefined && hz > other * (1 + 1e-12));
}

/** The nodes that a node hangs on, itself among them. */
function ancestors(part: Part, id: string): Set<string> {
  const known = new Set<string>();
  const visit = (name: string): void => {
    const node = part.clocks.find((one) => one.id === name);
    if (!node || known.has(name)) return;
    known.add(name);
    if (node.kind === 'choice') node.from.forEach(visit);
    else if (node.kind === 'doubler') [node.from, node.unless].forEach(visit);
    else if (node.kind !== 'source') visit(node.from);
  };
  visit(id);
  return known;
}

/** What a node may be set to, and what its clock then is; nothing where its input does not run or a limit is broken. */
function branches(
  node: ClockNode,
  source: string,
  running: Map<string, number>,
  chosen: Record<string, number | string>,
) {
  if (node.kind === 'source') return [];
  if (node.kind === 'fixed') return running.has(node.from) ? [{ hz: node.hz, value: undefined }] : [];
  if (node.kind === 'doubler') {
    const input = running.get(node.from);
    const by = chosen[node.unless] === 1 ? 1 : 2;
    return input === undefined ? [] : [{ hz: input * by, value: undefined }];
  }
  if (node.kind === 'choice') {
    const taken = node.standard === undefined ? node.from.filter((from) => from === source) : node.from;
    return taken.flatMap((from) => {
      const hz = running.get(from);
      const value = node.standard === undefined ? undefined : from;
      return hz === undefined || breaks(node.limit, hz, running) ? [] : [{ hz, value }];
    });
  }
  const input = running.get(node.from);
  if (input === undefined) return [];
  return values(node.by).flatMap((value) => {
    const hz = node.kind === 'divider' ? input / value : input * value;
    return breaks(node.limit, hz, running) ? [] : [{ hz, value }];
  });
}

/**
 * The legal settings with which a node of the clock path is closest to a wanted frequency in Hz, with the source that
 * `base` has; exact ones first, on ties those that change least of `base`. Tries every combination of the dividers,
 * multipliers and choices the node hangs on, in plain numbers, and checks the nearest ones exactly against all limits.
 */
export function clockSettingsFor(
  part: Part,
  base: ClockSetting,
  node: string,
  wantedHz: number,
  max = 12,
): ClockFind[] {
  const relevant = ancestors(part, node);
  const nodes = part.clocks.filter((one) => relevant.has(one.id) && one.kind !== 'source');
  const best: Combination[] = [];
  let worst = Infinity;
  const standing = (one: ClockNode): number | string | undefined =>
    base.settings?.[one.id] ?? ('standard' in one ? one.standard : undefined);
  const order = (one: Combination, other: Combination): number =>
    one.error - other.error || one.changes - other.changes;

  const keep = (hz: number, changes: number, settings: Record<string, number | string>): void => {
    const error = Math.abs(hz / wantedHz - 1);
    if (error > worst) return;
    best.push({ error, changes, settings: { ...settings } });
    if (best.length < 4 * CHECKED) return;
    best.sort(order);
    best.length = CHECKED;
    worst = best[CHECKED - 1]?.error ?? Infinity;
  };

  /** Goes through the nodes in order; `running` and `settings` are filled on the way down and emptied on the way up. */
  const walk = (
    at: number,
    running: Map<string, number>,
    settings: Record<string, number | string>,
    changes: number,
  ): void => {
    const next = nodes[at];
    if (!next) {
      const reached = running.get(node);
      if (reached !== undefined) keep(reached, changes, settings);
      return;
    }
    const open = branches(next, base.source, running, settings);
    if (open.length === 0) return walk(at + 1, running, settings, changes);
    for (const { hz, value } of open) {
      running.set(next.id, hz);
      if (value !== undefined) settings[next.id] = value;
      const changed = value !== undefined && value !== standing(next) ? 1 : 0;
      walk(at + 1, running, settings, changes + changed);
    }
    running.delete(next.id);
    delete settings[next.id];
  };

  const sources = part.clocks.flatMap((one): [string, number][] => {
    if (one.kind !== 'source') return [];
    if (one.id === base.source) return [[one.id, exact(base.sourceHz).valueOf()]];
    return one.always && typeof one.hz === 'number' ? [[one.id, one.hz]] : [];
  });
  walk(0, new Map(sources), {}, 0);
  best.sort(order);
  const wanted = exact(wantedHz);
  const found: ClockFind[] = [];
  for (const { settings } of best.slice(0, CHECKED)) {
    if (found.length >= max) break;
    const setting: ClockSetting = { ...base, settings: { ...base.settings, ...settings } };
    const hz = legalHz(part, setting, node);
    if (hz) found.push({ setting, hz, errorPpm: hz.div(wanted).sub(1).mul(1000000).valueOf() });
  }
  return found;
}

function legalHz(part: Part, setting: ClockSetting, node: string): Exact | undefined {
  try {
    return clockAt(clockPath(part, setting), node).hz;
  } catch (error) {
    if (error instanceof ClockError) return undefined;
    throw error;
  }
}
